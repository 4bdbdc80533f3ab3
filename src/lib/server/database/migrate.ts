import { createHash } from 'node:crypto';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import postgres from 'postgres';
import { connect } from './connect.ts';
import { StartError } from './cluster.ts';

/** Where the migrations lie. */
const FOLDER = join(process.cwd(), 'db/migrations');
const migrations = (folder: string) =>
	readdirSync(folder)
		.filter((f) => f.endsWith('.sql'))
		.sort();
/** The newest migration that this version has. */
export const newestMigration = (): string => migrations(FOLDER).at(-1)!;

/**
 * Brings a database up to the code, one transaction a file; makes the database itself when it is missing.
 * @param url as the owner
 * Each keeps the hash of its text: one that reads otherwise than when it was applied is named, since what the database then is
 * nobody could say.
 * @throws StartError when the database is newer than the code, or was made by another text
 */
export async function migrate(url: string, folder = FOLDER): Promise<void> {
	await createDatabase(url);
	const sql = connect(url, 'owner', 1);
	try {
		await sql`CREATE TABLE IF NOT EXISTS migration (name text PRIMARY KEY, at timestamptz NOT NULL DEFAULT now())`;
		await sql`ALTER TABLE migration ADD COLUMN IF NOT EXISTS hash text`;
		const done = new Map(
			(await sql<{ name: string; hash: string | null }[]>`SELECT name, hash FROM migration`).map((r) => [
				r.name,
				r.hash
			])
		);
		const files = migrations(folder);
		const unknown = [...done.keys()].find((name) => !files.includes(name));
		if (unknown)
			throw new StartError(
				`This database has been used by a newer Earmark (it holds ${unknown}). Start that version, or point EARMARK_DATA elsewhere.`
			);
		for (const file of files) {
			const text = readFileSync(join(folder, file), 'utf8');
			const hash = createHash('sha256').update(text).digest('hex');
			const applied = done.get(file);
			if (applied && applied !== hash)
				throw new StartError(
					`${file} reads otherwise than when it was applied to this database. Put back the text of that version; a change is a migration of its own.`
				);
			// What was applied before hashes were kept takes the one of today.
			if (applied === null) await sql`UPDATE migration SET hash = ${hash} WHERE name = ${file}`;
			if (applied !== undefined) continue;
			await sql.begin(async (tx) => {
				await tx.unsafe(text);
				await tx`INSERT INTO migration (name, hash) VALUES (${file}, ${hash})`;
			});
		}
	} finally {
		await sql.end();
	}
}

/** Makes a database where it is not there yet. */
export async function createDatabase(url: string): Promise<void> {
	const target = new URL(url);
	const name = decodeURIComponent(target.pathname.slice(1));
	target.pathname = '/postgres';
	const admin = postgres(target.href, { max: 1, onnotice: () => {} });
	try {
		const [there] = await admin`SELECT 1 FROM pg_database WHERE datname = ${name}`;
		if (!there) await admin`CREATE DATABASE ${admin(name)}`;
	} finally {
		await admin.end();
	}
}
