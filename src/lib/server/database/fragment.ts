import type { Db } from './connect.ts';

/** An empty piece of a statement: its type is that of them all. */
export const nothing = (sql: Db) => sql``;
/** A piece of a statement. */
export type Fragment = ReturnType<typeof nothing>;
