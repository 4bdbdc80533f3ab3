import type { Db } from '../database/connect.ts';
import type { LedgerSlice, Moved, RunInfo } from '../../core/trace/types.ts';

/** What a mark is called, and all that an answer says of it. */
export interface MarkName {
	id: string;
	kind: 'lot' | 'serial' | 'unmarked';
	number: string | null;
	lot: string | null;
	item: string;
	itemName: string;
	unit: string;
	decimals: number;
	expiresOn: string | null;
	status: string;
	measure: string | null;
	measureUnit: string | null;
}
export interface Slice extends LedgerSlice {
	marks: Map<string, MarkName>;
	runs: Map<string, RunInfo & { code: string; orderId: string | null }>;
}

const ISO = 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"';
/** A moment in the width that the slice's times have. */
export const sliceTime = (iso: string) => new Date(iso).toISOString().replace(/(\.\d{3})Z$/, '$1000Z');
/** A slice's time as the interfaces show it: without a fraction that is zero. */
export const plainTime = (at: string) => at.replace(/\.?0*Z$/, 'Z');

/**
 * All movements of every mark that the roots could have gone into, whatever the times; the trace itself decides.
 * Unmarked stock is not followed.
 */
export const forwardSlice = (sql: Db, roots: string[], asOf: string | null) =>
	load(
		sql,
		asOf,
		sql`
	WITH RECURSIVE reach(id) AS (
		SELECT unnest(${roots}::bigint[])
		UNION
		SELECT out.mark_id FROM reach
			JOIN movement u ON u.mark_id = reach.id AND u.role = 'use'
			JOIN run r ON r.id = u.run_id
			JOIN mark k ON k.id = reach.id AND k.kind <> 'unmarked'
			CROSS JOIN LATERAL (
				SELECT r.unit_mark AS mark_id WHERE r.unit_mark IS NOT NULL
				UNION ALL SELECT m.mark_id FROM movement m WHERE m.run_id = r.id AND m.role = 'make' AND r.unit_mark IS NULL) out)
	SELECT m.* FROM reach JOIN mark k ON k.id = reach.id AND k.kind <> 'unmarked' JOIN movement m ON m.mark_id = reach.id
	UNION ALL
	SELECT m.* FROM reach JOIN mark k ON k.id = reach.id AND k.kind = 'unmarked' JOIN movement m ON m.mark_id = reach.id AND m.role = 'make'
		AND m.run_id IN (SELECT u.run_id FROM movement u WHERE u.mark_id IN (SELECT id FROM reach) AND u.role = 'use')`,
		roots
	);

/** Makes, uses, detaches and arrivals of everything that could be in the roots. */
export const backSlice = (sql: Db, roots: string[], asOf: string | null) =>
	load(
		sql,
		asOf,
		sql`
	WITH RECURSIVE source(id) AS (
		SELECT unnest(${roots}::bigint[])
		UNION
		SELECT u.mark_id FROM source
			JOIN mark k ON k.id = source.id AND k.kind <> 'unmarked'
			CROSS JOIN LATERAL (
				SELECT m.run_id FROM movement m WHERE m.mark_id = source.id AND m.role = 'make'
				UNION SELECT r.id FROM run r WHERE r.unit_mark = source.id) made
			JOIN movement u ON u.run_id = made.run_id AND u.role = 'use'),
	runs AS (
		SELECT DISTINCT m.run_id AS id FROM source JOIN mark k ON k.id = source.id AND k.kind <> 'unmarked' JOIN movement m ON m.mark_id = source.id AND m.role = 'make'
		UNION SELECT r.id FROM source JOIN run r ON r.unit_mark = source.id)
	SELECT m.* FROM source JOIN mark k ON k.id = source.id AND k.kind <> 'unmarked' JOIN movement m ON m.mark_id = source.id
		LEFT JOIN place f ON f.id = m.from_place
		WHERE m.role = 'make' OR (m.role IS NULL AND f.virtual)
	UNION ALL
	SELECT m.* FROM runs JOIN movement m ON m.run_id = runs.id AND m.role IN ('use', 'detach')`,
		roots
	);

async function load(sql: Db, asOf: string | null, query: ReturnType<Db>, roots: string[]): Promise<Slice> {
	// One JSON text instead of a row a movement: far less to parse.
	const [{ rows }] = await sql<{ rows: (string | null)[][] | null }[]>`
		SELECT json_agg(json_build_array(s.id::text, to_char(s.at AT TIME ZONE 'UTC', ${ISO}), s.mark_id::text, trim_scale(s.qty)::text,
			s.from_place::text, s.to_place::text, s.run_id::text, s.role, e.partner_id::text, s.event_id::text)) AS rows
		FROM (SELECT m.* FROM (${query}) m WHERE m.mirrors IS NULL AND NOT EXISTS (SELECT 1 FROM movement x WHERE x.mirrors = m.id)
			${asOf ? sql`AND m.at <= ${asOf}::timestamptz` : sql``}) s
		JOIN event e ON e.id = s.event_id`;
	const movements = (rows ?? []).map(
		([id, at, mark, qty, from, to, run, role, partner, event]) =>
			({ id, at, mark, qty, from, to, run, role, partner, event }) as Moved
	);
	movements.sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : Number(a.id) - Number(b.id)));
	const runIds = [...new Set(movements.flatMap((m) => m.run ?? []))];
	const runs = await sql<
		{
			id: string;
			code: string;
			unit: string | null;
			planned: string | null;
			closed: boolean;
			orderId: string | null;
		}[]
	>`
		SELECT r.id, r.code, r.unit_mark AS unit, r.planned, r.order_id AS "orderId",
			EXISTS (SELECT 1 FROM run_closing c WHERE c.run_id = r.id AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = c.event_id)) AS closed
		FROM run r WHERE r.id = ANY(${runIds}::bigint[])`;
	const ids = new Set([...roots, ...movements.map((m) => m.mark), ...runs.flatMap((r) => r.unit ?? [])]);
	const marks = await markNames(sql, [...ids]);
	const places = await sql<{ id: string; code: string; virtual: boolean }[]>`SELECT id, code, virtual FROM place`;
	return {
		movements,
		marks: new Map(marks.map((m) => [m.id, m])),
		runs: new Map(runs.map((r) => [r.id, r])),
		places: new Map(places.map((p) => [p.id, p]))
	};
}

export const markNames = (sql: Db, ids: string[]) => sql<MarkName[]>`
	SELECT k.id, k.kind, k.number, coalesce(p.number, k.lot_no) AS lot, i.code AS item, i.name AS "itemName", i.unit, i.decimals,
		k.expires_on AS "expiresOn", k.status, i.content_qty::text AS measure, i.content_unit AS "measureUnit"
	FROM mark k JOIN item i ON i.id = k.item_id LEFT JOIN mark p ON p.id = k.parent_id WHERE k.id = ANY(${ids}::bigint[])`;

/**
 * The mark that a trace starts from, and with a lot the serials that belong to it.
 * @returns null when there is none of that name
 */
export async function findRoots(
	sql: Db,
	name: { item: string; lot?: string | null; serial?: string | null } | { mark: string }
): Promise<string[] | null> {
	const [mark] =
		'mark' in name
			? await sql<{ id: string }[]>`SELECT id FROM mark WHERE id = ${name.mark} AND kind <> 'unmarked'`
			: await sql<{ id: string }[]>`
				SELECT m.id FROM mark m JOIN item i ON i.id = m.item_id
				WHERE i.code = ${name.item} AND m.kind = ${name.serial ? 'serial' : 'lot'} AND m.number = ${name.serial ?? name.lot ?? ''}`;
	if (!mark) return null;
	const children = await sql<
		{ id: string }[]
	>`SELECT id FROM mark WHERE parent_id = ${mark.id} ORDER BY number COLLATE natural_order`;
	return [mark.id, ...children.map((c) => c.id)];
}
