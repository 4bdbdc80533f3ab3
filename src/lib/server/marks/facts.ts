import type { Db } from '../database/connect.ts';
import type { Fact } from '../../core/facts/fact.ts';

/** A fact's columns, for a query whose row of the table fact is called `f`. */
export const factColumns = (sql: Db) =>
	sql`f.code, f.name, f.kind, f.unit, f.decimals, trim_scale(f.low)::text AS low, trim_scale(f.high)::text AS high, f.choices, f.outside, f.per`;

/** Facts that the firm has defined, by their codes; those unknown are left out. */
export const factsByCode = (sql: Db, codes: readonly string[]) => sql<Fact[]>`
	SELECT ${factColumns(sql)} FROM fact f WHERE f.code = ANY(${codes}) ORDER BY f.name`;

/** Every fact that the firm has defined, by name. */
export const allFacts = (sql: Db) => sql<Fact[]>`SELECT ${factColumns(sql)} FROM fact f ORDER BY f.name`;
