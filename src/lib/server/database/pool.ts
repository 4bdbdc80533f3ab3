import { connect, type Sql } from './connect.ts';

/** The application's pool, made at first use: the build needs none. */
export const pool = (): Sql => (global.earmarkPool ??= connect(process.env.DATABASE_URL!, 'app', 12));

/** Where traces are read: the same database, or a replica of it. */
export const readPool = (): Sql =>
	(global.earmarkReadPool ??= connect(process.env.DATABASE_READ_URL || process.env.DATABASE_URL!, 'reader', 4));

declare global {
	var earmarkPool: Sql | undefined;
	var earmarkReadPool: Sql | undefined;
}
