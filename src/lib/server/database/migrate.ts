import { createHash } from 'node:crypto';
import { existsSync, readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import postgres from 'postgres';
import { StartError } from './cluster.ts';
import { connect, type Db, type Tx } from './connect.ts';

/*
 * The database's code stands in files: db/tables is what a new database begins with, db/functions what runs in it. A change
 * of a table is a file in db/migrations; functions and views are made anew whenever their files read otherwise.
 */

/** Where the database's code lies. */
const FOLDER = join(process.cwd(), 'db');
/** What a new database begins with, as the table `migration` names it; later changes sort after it. */
const BASELINE = '0048_baseline';
/** The last of the migrations that came before the baseline. */
const LAST_FORMER = '0047_sought.sql';
/** The row that keeps the version of functions and views: before every change of a table. */
const CODE = '0000_functions';
/** Held while a database is brought up to the code: of two instances that start together one does it. */
const LOCK = [7, 3] as const;

/** The database's code, as text. */
interface Code {
	tables: string[];
	/** the first of them reads no table, and is there before them */
	functions: string[];
	/** what each table is for, its triggers and rights */
	guards: string[];
	adopt: string;
	/** changes after the baseline, by name */
	migrations: Map<string, string>;
}
const sqlIn = (folder: string) =>
	existsSync(folder)
		? readdirSync(folder)
				.filter((f) => f.endsWith('.sql'))
				.sort()
		: [];
function readCode(folder: string): Code {
	const read = (...path: string[]) => readFileSync(join(folder, ...path), 'utf8');
	return {
		tables: sqlIn(join(folder, 'tables')).map((f) => read('tables', f)),
		functions: sqlIn(join(folder, 'functions')).map((f) => read('functions', f)),
		guards: [read('comments.sql'), read('guards.sql')],
		adopt: read('adopt.sql'),
		migrations: new Map(sqlIn(join(folder, 'migrations')).map((f) => [f, read('migrations', f)]))
	};
}
const hashOf = (...texts: string[]) => createHash('sha256').update(texts.join('\0')).digest('hex');
const baselineOf = (code: Code) => hashOf(...code.tables, ...code.guards);

/** The newest change of a table that this version has. */
export const newestMigration = (folder = FOLDER): string => sqlIn(join(folder, 'migrations')).at(-1) ?? BASELINE;

/** Which version of the database something is of: its newest change of a table, and the hash of its functions. */
export interface Version {
	migration: string | null;
	functions: string | null;
}
/** What this version of Earmark needs. */
export const versionOfCode = (folder = FOLDER): Version => ({
	migration: newestMigration(folder),
	functions: hashOf(...readCode(folder).functions)
});
/** What a migrated database is at. */
export async function versionOf(sql: Db): Promise<Version> {
	const [row] = await sql<Version[]>`
		SELECT max(name) AS migration, max(hash) FILTER (WHERE name = ${CODE}) AS functions FROM migration`;
	return row;
}
/** Are two of them the same? */
export const sameVersion = (a: Version, b: Version): boolean =>
	a.migration === b.migration && a.functions === b.functions;

/**
 * Brings a database up to the code, in one transaction; makes the database itself when it is missing. One that stands at the
 * last of the former migrations is adopted as being at the baseline.
 * @param url as the owner
 * @param folder where the database's code lies
 * @throws StartError when the database is newer than the code or too old for it, or was made by another text
 */
export async function migrate(url: string, folder = FOLDER): Promise<void> {
	await createDatabase(url);
	const code = readCode(folder);
	const sql = connect(url, 'owner', 1);
	try {
		await sql.begin(async (tx) => {
			await tx`SELECT pg_advisory_xact_lock(${LOCK[0]}, ${LOCK[1]})`;
			await bringUp(tx, code);
		});
	} finally {
		await sql.end();
	}
}

async function bringUp(tx: Tx, code: Code): Promise<void> {
	await tx`CREATE TABLE IF NOT EXISTS migration (name text PRIMARY KEY, at timestamptz NOT NULL DEFAULT now(), hash text)`;
	const rows = await tx<{ name: string; hash: string | null }[]>`SELECT name, hash FROM migration`;
	const done = new Map(rows.map((r) => [r.name, r.hash]));
	const former = [...done.keys()].filter((name) => name !== CODE && name <= LAST_FORMER);
	if (former.length && !done.has(BASELINE)) {
		if (!done.has(LAST_FORMER))
			throw new StartError(
				`This database is of an Earmark that is too old (it stands at ${former.sort().at(-1)}). Start a version whose newest migration is ${LAST_FORMER} on it first, then this one.`
			);
		refuseUnknown(done, LAST_FORMER, code);
		await tx.unsafe(code.adopt);
		await makeFunctions(tx, code);
		for (const text of code.guards) await tx.unsafe(text);
	} else if (!done.has(BASELINE)) {
		await tx.unsafe('SET LOCAL check_function_bodies = off');
		const [base, ...tables] = code.tables;
		for (const text of [base, code.functions[0], ...tables, ...code.functions.slice(1), ...code.guards])
			await tx.unsafe(text);
	}
	const fresh = !done.has(BASELINE);
	if (fresh) {
		await note(tx, BASELINE, baselineOf(code));
		await note(tx, CODE, hashOf(...code.functions));
	} else {
		refuseUnknown(done, BASELINE, code);
		refuseEdited(done, BASELINE, baselineOf(code));
	}

	const waiting: string[] = [];
	for (const [name, text] of code.migrations)
		if (done.has(name)) refuseEdited(done, name, hashOf(text));
		else waiting.push(name);
	if (waiting.length || (!fresh && done.get(CODE) !== hashOf(...code.functions))) {
		// Views stand in the way of a table's change, and functions may need what the change makes.
		await dropViews(tx);
		for (const name of waiting) {
			await tx.unsafe(code.migrations.get(name)!);
			await note(tx, name, hashOf(code.migrations.get(name)!));
		}
		await makeFunctions(tx, code);
		await tx`UPDATE migration SET hash = ${hashOf(...code.functions)}, at = now() WHERE name = ${CODE}`;
	}
}
/** What has been applied, with the hash of its text. */
type Applied = ReadonlyMap<string, string | null>;
function refuseUnknown(done: Applied, last: string, code: Code) {
	const unknown = [...done.keys()].find((name) => name > last && !code.migrations.has(name));
	if (unknown)
		throw new StartError(
			`This database has been used by a newer Earmark (it holds ${unknown}). Start that version, or point EARMARK_DATA elsewhere.`
		);
}
const note = (tx: Tx, name: string, hash: string) => tx`INSERT INTO migration (name, hash) VALUES (${name}, ${hash})`;

/** What the database then is nobody could say. */
function refuseEdited(done: Applied, name: string, hash: string) {
	if (done.get(name) !== hash)
		throw new StartError(
			`${name} reads otherwise than when it was applied to this database. Put back the text of that version; a change is a migration of its own.`
		);
}

/** Makes functions and views as the files say, and drops those that no file names any more. */
async function makeFunctions(tx: Tx, { functions }: Code): Promise<void> {
	await dropViews(tx);
	await tx.unsafe('SET LOCAL check_function_bodies = off');
	for (const text of functions) await tx.unsafe(text);
	const named = functions.flatMap((text) =>
		[...text.matchAll(/^CREATE OR REPLACE FUNCTION (\w+)/gm)].map(([, name]) => name)
	);
	const gone = await tx<{ it: string }[]>`
		SELECT p.oid::regprocedure::text AS it FROM pg_proc p WHERE p.pronamespace = 'public'::regnamespace AND p.proname <> ALL (${named})
			AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.classid = 'pg_proc'::regclass AND d.objid = p.oid AND d.deptype = 'e')`;
	for (const { it } of gone) await tx.unsafe(`DROP FUNCTION ${it}`);
}
async function dropViews(tx: Tx): Promise<void> {
	const views = await tx<{ name: string }[]>`
		SELECT c.relname AS name FROM pg_class c WHERE c.relkind = 'v' AND c.relnamespace = 'public'::regnamespace
			AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.classid = 'pg_class'::regclass AND d.objid = c.oid AND d.deptype = 'e')`;
	// Functions that name a view's rows go with it, and are made again with it.
	for (const { name } of views) await tx`DROP VIEW IF EXISTS ${tx(name)} CASCADE`;
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
	} catch (e) {
		// Two instances that start together: the other has just made it.
		if (!['42P04', '23505'].includes((e as { code?: string }).code ?? '')) throw e;
	} finally {
		await admin.end();
	}
}
