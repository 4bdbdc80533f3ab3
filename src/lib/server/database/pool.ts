import { connect, type Sql } from './connect.ts';

/** The application's pool, made at first use: the build needs none. */
export const pool = (): Sql => (global.earmarkPool ??= connect(process.env.DATABASE_URL!, 'app', 12));

/** Large statements that change nothing. */
export const readPool = (): Sql => (global.earmarkReadPool ??= connect(process.env.DATABASE_URL!, 'reader', 4));

/** A replica of the database, where traces may be read; null where there is none. */
export const replicaPool = (): Sql | null =>
	process.env.DATABASE_READ_URL
		? (global.earmarkReplicaPool ??= connect(process.env.DATABASE_READ_URL, 'reader', 4))
		: null;

declare global {
	var earmarkPool: Sql | undefined;
	var earmarkReadPool: Sql | undefined;
	var earmarkReplicaPool: Sql | undefined;
}
