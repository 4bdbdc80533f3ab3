import { connect, type Sql } from './connect.ts';

/** The application's pool, made at first use: the build needs none. */
export const pool = (): Sql => (global.earmarkPool ??= connect(process.env.DATABASE_URL!, 'app', 12));

declare global {
	var earmarkPool: Sql | undefined;
}
