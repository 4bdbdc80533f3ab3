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
 * @throws StartError when the database is newer than the code
 */
export async function migrate(url: string, folder = FOLDER): Promise<void> {
	await createDatabase(url);
	const sql = connect(url, 'owner', 1);
	try {
		await sql`CREATE TABLE IF NOT EXISTS migration (name text PRIMARY KEY, at timestamptz NOT NULL DEFAULT now())`;
		const done = new Set((await sql<{ name: string }[]>`SELECT name FROM migration`).map((r) => r.name));
		const files = migrations(folder);
		const unknown = [...done].find((name) => !files.includes(name));
		if (unknown)
			throw new StartError(
				`This database has been used by a newer Earmark (it holds ${unknown}). Start that version, or point EARMARK_DATA elsewhere.`
			);
		for (const file of files.filter((f) => !done.has(f)))
			await sql.begin(async (tx) => {
				await tx.unsafe(readFileSync(join(folder, file), 'utf8'));
				await tx`INSERT INTO migration (name) VALUES (${file})`;
			});
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
