import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
	closeSync,
	createReadStream,
	createWriteStream,
	existsSync,
	openSync,
	readSync,
	renameSync,
	rmSync,
	statSync
} from 'node:fs';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { z } from 'zod';
import { newestMigration, createDatabase, migrate } from '../database/migrate.ts';
import { serverProgram, StartError } from '../database/cluster.ts';
import { connect, type Sql } from '../database/connect.ts';
import { guardsAsDelivered } from '../ledger/guards.ts';
import { headAt, sealAll } from '../ledger/seal.ts';
import { verify, type Verified } from '../ledger/verify.ts';

/*
 * A backup is one file: PostgreSQL's own dump of everything (files are in the database), and at its end, in a block of
 * one kilobyte, what it is: the head of the ledger in it, how long the dump is and its hash. A file without that block was
 * cut short.
 */

const MARK = 'EARMARK BACKUP 1\n';
const BLOCK = 1024;
const about = z.object({
	/** the head of the ledger in it */
	size: z.number().int().min(0),
	root: z.string().regex(/^[0-9a-f]{64}$/),
	/** when it was taken, ISO 8601 */
	taken: z.string(),
	/** the newest migration of its database */
	migration: z.string(),
	bytes: z.number().int().min(0),
	sha256: z.string().regex(/^[0-9a-f]{64}$/)
});
/** What a backup says of itself. */
export type About = z.output<typeof about>;

/** The arguments and surroundings by which PostgreSQL's own programs reach a database. */
function reach(url: string) {
	const at = new URL(url);
	const args = [
		'-h',
		at.hostname,
		'-p',
		at.port || '5432',
		'-U',
		decodeURIComponent(at.username),
		'-d',
		at.pathname.slice(1)
	];
	return { args, env: { ...process.env, PGPASSWORD: decodeURIComponent(at.password) } };
}

/** Counts and hashes what goes through. */
function measured() {
	const hash = createHash('sha256');
	const seen = { bytes: 0, sha256: () => hash.digest('hex') };
	const through = new Transform({
		transform(chunk: Buffer, _encoding, done) {
			seen.bytes += chunk.length;
			hash.update(chunk);
			done(null, chunk);
		}
	});
	return { seen, through };
}

/** Runs one of PostgreSQL's programs. @returns what it says when it fails; null when it does not */
const ended = (child: ReturnType<typeof spawn>): Promise<string | null> => {
	let said = '';
	child.stderr!.on('data', (d) => (said = (said + d).slice(-4000)));
	return new Promise((done) => {
		child.once('error', (e) => done(e.message));
		child.once('exit', (code) => done(code === 0 ? null : said.trim().split('\n').at(-1) || `it ended with ${code}`));
	});
};

/**
 * Writes a backup, while people work: of one moment, with the head of the ledger at that moment.
 * @param url as the owner
 * @throws StartError when the file is there already, its disk is full or the dump fails; nothing is left then
 */
export async function backup(url: string, file: string): Promise<About> {
	if (existsSync(file)) throw new StartError(`${file} is there already. Name another file, or remove it.`);
	const part = `${file}.part`;
	const sql = connect(url, 'owner', 2);
	try {
		await sealAll(sql);
		const made: { about?: About } = {};
		await sql.begin('ISOLATION LEVEL REPEATABLE READ READ ONLY', async (tx) => {
			const [{ snapshot, size }] = await tx<{ snapshot: string; size: string }[]>`
				SELECT pg_export_snapshot() AS snapshot, (SELECT coalesce(max(index) + 1, 0) FROM ledger_leaf) AS size`;
			const [{ migration }] = await tx<{ migration: string }[]>`SELECT max(name) AS migration FROM migration`;
			const { root } = await headAt(tx, Number(size));
			const { args, env } = reach(url);
			const dump = spawn(serverProgram('pg_dump'), ['-Fc', '--no-owner', `--snapshot=${snapshot}`, ...args], {
				env,
				stdio: ['ignore', 'pipe', 'pipe']
			});
			const end = ended(dump);
			const { seen, through } = measured();
			await pipeline(dump.stdout, through, createWriteStream(part, { flags: 'wx', flush: true }));
			const failed = await end;
			if (failed) throw new StartError(`The database could not be dumped: ${failed}. Nothing was kept.`);
			made.about = {
				...{ size: Number(size), root, taken: new Date().toISOString(), migration },
				...{ bytes: seen.bytes, sha256: seen.sha256() }
			};
		});
		const block = Buffer.alloc(BLOCK, ' ');
		block.write(MARK + JSON.stringify(made.about));
		await pipeline([block], createWriteStream(part, { flags: 'a', flush: true }));
		renameSync(part, file);
		return made.about!;
	} catch (e) {
		rmSync(part, { force: true });
		const { code } = e as { code?: string };
		if (code === 'ENOSPC')
			throw new StartError(
				`The disk that holds ${file} is full. Nothing was kept; make room, or name a file elsewhere.`
			);
		if (code === 'ENOENT' || code === 'EACCES')
			throw new StartError(`${file} cannot be written here. Name a file in a folder that is there and may be written.`);
		throw e;
	} finally {
		await sql.end();
	}
}

/** What a backup says of itself. @throws StartError when there is no such file, or it is no whole backup */
export function readAbout(file: string): About {
	if (!existsSync(file)) throw new StartError(`There is no file ${file}. Check its name.`);
	const { size } = statSync(file);
	const block = Buffer.alloc(BLOCK);
	const open = openSync(file, 'r');
	readSync(open, block, 0, BLOCK, Math.max(0, size - BLOCK));
	closeSync(open);
	const text = block.toString();
	const cut = new StartError(`${file} is no whole backup: its end is missing. Take another one.`);
	if (!text.startsWith(MARK)) throw cut;
	let said: unknown;
	try {
		said = JSON.parse(text.slice(MARK.length));
	} catch {
		throw cut;
	}
	const read = about.safeParse(said);
	if (!read.success || read.data.bytes !== size - BLOCK) throw cut;
	return read.data;
}

/**
 * Restores a backup into an empty place, brings it up to this version, and checks all of it. It works in a database beside, and
 * gives it its name at the end: what was stopped or refused is in nobody's way.
 * @param url of a database that is not there yet, or has nothing in it, as its owner
 * @throws StartError when the file is not whole or of a newer version, or the place is not empty
 */
export async function restore(url: string, file: string): Promise<{ about: About; verified: Verified }> {
	const told = readAbout(file);
	if (told.migration > newestMigration())
		throw new StartError(
			`This backup is of a newer Earmark (it holds ${told.migration}). Restore it with that version.`
		);
	const { seen, through } = measured();
	through.resume();
	await pipeline(createReadStream(file, { end: told.bytes - 1 }), through);
	if (seen.sha256() !== told.sha256)
		throw new StartError(`${file} is not as it was written: its content has another hash. Take another copy of it.`);
	await mustBeEmpty(url);
	const beside = besideOf(url);
	await dropDatabase(beside);
	await createDatabase(beside);
	const sql = connect(beside, 'owner', 1);
	try {
		// The dump gives rights to this role, and roles belong to the server, not to a database.
		await sql.unsafe(
			`DO $$ BEGIN CREATE ROLE earmark_app NOLOGIN; EXCEPTION WHEN duplicate_object OR unique_violation THEN NULL; END $$`
		);
		await sql.unsafe(
			`DO $$ BEGIN EXECUTE format('GRANT earmark_app TO %I', current_user); EXCEPTION WHEN unique_violation THEN NULL; END $$`
		);
		const { args, env } = reach(beside);
		const back = spawn(serverProgram('pg_restore'), ['--no-owner', '--exit-on-error', ...args], {
			env,
			stdio: ['pipe', 'ignore', 'pipe']
		});
		const end = ended(back);
		await pipeline(createReadStream(file, { end: told.bytes - 1 }), back.stdin).catch(() => undefined);
		const failed = await end;
		if (failed)
			throw new StartError(`The database could not be restored: ${failed}. Nothing of it was kept; try again.`);
		await sql.unsafe('ANALYZE');
		await migrate(beside);
		await sealAll(sql);
		const verified = await verify(sql, {
			guards: await guardsAsDelivered(beside),
			head: { size: told.size, root: told.root }
		});
		await sql.end();
		await rename(beside, url);
		return { about: told, verified };
	} catch (e) {
		await sql.end();
		await dropDatabase(beside);
		throw e;
	}
}

/** Where a database is restored before it gets its name. */
function besideOf(url: string): string {
	const beside = new URL(url);
	beside.pathname = `${beside.pathname}_restoring`;
	return beside.href;
}
const nameIn = (url: string) => decodeURIComponent(new URL(url).pathname.slice(1));
/** Does something beside a database, on its server. */
async function onServer<T>(url: string, work: (admin: Sql) => Promise<T>): Promise<T> {
	const server = new URL(url);
	server.pathname = '/postgres';
	const admin = connect(server.href, 'owner', 1);
	try {
		return await work(admin);
	} finally {
		await admin.end();
	}
}
const dropDatabase = (url: string) =>
	onServer(url, (admin) => admin.unsafe(`DROP DATABASE IF EXISTS ${quoted(nameIn(url))} WITH (FORCE)`));
const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`;

/** @throws StartError where a database of that name has something in it */
async function mustBeEmpty(url: string): Promise<void> {
	const there = await onServer(url, (admin) => admin`SELECT 1 FROM pg_database WHERE datname = ${nameIn(url)}`);
	if (!there.length) return;
	const sql = connect(url, 'owner', 1);
	try {
		const [{ n }] = await sql<
			{ n: number }[]
		>`SELECT count(*)::int AS n FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind IN ('r', 'v')`;
		if (n)
			throw new StartError(
				'There is a database here already, and nothing of it is overwritten. Name another EARMARK_DATA, or a DATABASE_URL that is empty.'
			);
	} finally {
		await sql.end();
	}
}
/** Gives a database its name; an empty one that has it goes. */
async function rename(from: string, to: string): Promise<void> {
	await dropDatabase(to);
	await onServer(to, (admin) => admin.unsafe(`ALTER DATABASE ${quoted(nameIn(from))} RENAME TO ${quoted(nameIn(to))}`));
}
