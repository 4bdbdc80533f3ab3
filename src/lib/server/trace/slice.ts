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
	/** partners of the events in the slice */
	partners: Map<string, { code: string; name: string }>;
}

const ISO = 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"';
/** A moment in the width that the slice's times have. */
export const sliceTime = (iso: string) => new Date(iso).toISOString().replace(/(\.\d{3})Z$/, '$1000Z');
/** A slice's time as the interfaces show it: without a fraction that is zero. */
export const plainTime = (at: string) => (at.endsWith('.000000Z') ? at.slice(0, 19) + 'Z' : at.replace(/0+Z$/, 'Z'));

/** Unmarked stock is one hidden mark an item: few, so that asking for them once beats a look at every mark. */
const bare = (sql: Db) => sql`(SELECT id FROM mark WHERE kind = 'unmarked')`;

/**
 * All movements of every mark that the roots could have gone into, whatever the times; the trace itself decides.
 * Unmarked stock is not followed.
 */
export const forwardSlice = (sql: Db, roots: string[], asOf: string | null) =>
	load(
		sql,
		asOf,
		roots,
		sql`
	reach(id) AS (
		SELECT unnest(${roots}::bigint[])
		UNION
		SELECT out.mark_id FROM reach
			JOIN movement u ON u.mark_id = reach.id AND u.role = 'use'
			JOIN run r ON r.id = u.run_id
			CROSS JOIN LATERAL (
				SELECT r.unit_mark AS mark_id WHERE r.unit_mark IS NOT NULL
				UNION ALL SELECT m.mark_id FROM movement m WHERE m.run_id = r.id AND m.role = 'make' AND r.unit_mark IS NULL) out
			WHERE reach.id NOT IN ${bare(sql)}),
	moved AS MATERIALIZED (
		SELECT m.* FROM reach JOIN movement m ON m.mark_id = reach.id WHERE reach.id NOT IN ${bare(sql)}
		UNION ALL
		SELECT m.* FROM reach JOIN movement m ON m.mark_id = reach.id AND m.role = 'make' WHERE reach.id IN ${bare(sql)}
			AND m.run_id IN (SELECT u.run_id FROM movement u WHERE u.mark_id IN (SELECT id FROM reach) AND u.role = 'use'))`
	);

/** Makes, uses, detaches and arrivals of everything that could be in the roots. */
export const backSlice = (sql: Db, roots: string[], asOf: string | null) =>
	load(
		sql,
		asOf,
		roots,
		sql`
	source(id) AS (
		SELECT unnest(${roots}::bigint[])
		UNION
		SELECT u.mark_id FROM source
			CROSS JOIN LATERAL (
				SELECT m.run_id FROM movement m WHERE m.mark_id = source.id AND m.role = 'make'
				UNION SELECT r.id FROM run r WHERE r.unit_mark = source.id) made
			JOIN movement u ON u.run_id = made.run_id AND u.role = 'use'
			WHERE source.id NOT IN ${bare(sql)}),
	fed AS (
		SELECT DISTINCT m.run_id AS id FROM source JOIN movement m ON m.mark_id = source.id AND m.role = 'make' WHERE source.id NOT IN ${bare(sql)}
		UNION SELECT r.id FROM source JOIN run r ON r.unit_mark = source.id),
	moved AS MATERIALIZED (
		SELECT m.* FROM source JOIN movement m ON m.mark_id = source.id LEFT JOIN place f ON f.id = m.from_place
			WHERE source.id NOT IN ${bare(sql)} AND (m.role = 'make' OR (m.role IS NULL AND f.virtual))
		UNION ALL
		SELECT m.* FROM fed JOIN movement m ON m.run_id = fed.id AND m.role IN ('use', 'detach'))`
	);

type Cell = string | number | boolean | null;
interface Columns {
	movements: string | null;
	marks: string | null;
	events: Cell[][] | null;
	runs: Cell[][] | null;
	items: Cell[][] | null;
	places: Cell[][] | null;
	partners: Cell[][] | null;
}

/**
 * Reads a slice in one statement. Movements and marks come as one text each (numbers have no blanks in them), the
 * rest as JSON: far less to build and to read than a row each. What was undone is left out by its event, so that it is
 * asked once an event.
 * @param parts the CTEs that end in `moved`: the movements that matter
 */
async function load(sql: Db, asOf: string | null, roots: string[], parts: ReturnType<Db>): Promise<Slice> {
	const rows: Columns[] = await sql`
		WITH RECURSIVE ${parts},
		happened AS MATERIALIZED (
			SELECT e.id, e.at, e.partner_id FROM event e WHERE e.id IN (SELECT event_id FROM moved) AND e.kind <> 'undo'
				AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id) ${asOf ? sql`AND e.at <= ${asOf}::timestamptz` : sql``}),
		held AS MATERIALIZED (SELECT r.* FROM run r WHERE r.id IN (SELECT m.run_id FROM moved m)),
		named AS MATERIALIZED (
			SELECT k.id, k.kind, k.number, k.parent_id, k.expires_on, k.status, k.item_id FROM mark k WHERE k.id IN (
				SELECT m.mark_id FROM moved m UNION SELECT unit_mark FROM held UNION SELECT unnest(${roots}::bigint[])))
		SELECT
			(SELECT string_agg(concat_ws(' ', m.id, m.event_id, m.mark_id, trim_scale(m.qty), m.from_place, m.to_place, coalesce(m.run_id, 0), coalesce(m.role, '-')), ';')
				FROM moved m WHERE m.event_id IN (SELECT id FROM happened)) AS movements,
			(SELECT string_agg(concat_ws(' ', k.id, k.kind, coalesce(k.number, '-'), coalesce(p.number, chr(31)), coalesce(k.expires_on::text, '-'), k.status, k.item_id), E'\n')
				FROM named k LEFT JOIN mark p ON p.id = k.parent_id) AS marks,
			(SELECT json_agg(json_build_array(id, to_char(at AT TIME ZONE 'UTC', ${ISO}), partner_id)) FROM happened) AS events,
			(SELECT json_agg(json_build_array(r.id, r.code, r.unit_mark, r.planned::text, r.order_id,
				EXISTS (SELECT 1 FROM run_closing c WHERE c.run_id = r.id AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = c.event_id)))) FROM held r) AS runs,
			(SELECT json_agg(json_build_array(id, code, name, unit, decimals, content_qty::text, content_unit)) FROM item
				WHERE id IN (SELECT DISTINCT item_id FROM named)) AS items,
			(SELECT json_agg(json_build_array(id, code, name)) FROM partner WHERE id IN (SELECT partner_id FROM happened)) AS partners,
			(SELECT json_agg(json_build_array(id, code, virtual)) FROM place) AS places`;
	const [got] = rows;
	const text = (c: Cell) => (c === null ? null : String(c));
	const keyed = <T>(list: Cell[][] | null, read: (row: Cell[]) => T) =>
		new Map((list ?? []).map((r) => [String(r[0]), read(r)]));
	const events = keyed(got.events, ([, at, partner]) => ({ at: at as string, partner: text(partner) }));
	const items = keyed(got.items, ([, item, itemName, unit, decimals, measure, measureUnit]) => ({ item, itemName, unit, decimals, measure, measureUnit })); // prettier-ignore
	const movements = (got.movements?.split(';') ?? []).map((row): Moved => {
		const [id, event, mark, qty, from, to, run, role] = row.split(' ');
		const { at, partner } = events.get(event)!;
		return { id, at, mark, qty, from, to, run: run === '0' ? null : run, role: role === '-' ? null : (role as Moved['role']), partner, event }; // prettier-ignore
	});
	movements.sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : Number(a.id) - Number(b.id)));
	const marks = (got.marks?.split('\n') ?? []).map((row): [string, MarkName] => {
		const [id, kind, given, parent, expires, status, itemId] = row.split(' ');
		const number = kind === 'unmarked' ? null : given;
		const lot = kind === 'lot' ? number : parent === '\x1f' ? null : parent;
		const { item, itemName, unit, decimals, measure, measureUnit } = items.get(itemId)!;
		return [id, { id, kind, number, lot, item, itemName, unit, decimals, expiresOn: expires === '-' ? null : expires, status, measure, measureUnit } as MarkName]; // prettier-ignore
	});
	return {
		movements,
		marks: new Map(marks),
		runs: keyed(got.runs, ([id, code, unit, planned, order, closed]) => ({ id: String(id), code: String(code), unit: text(unit), planned: text(planned), orderId: text(order), closed: closed === true })), // prettier-ignore
		places: keyed(got.places, ([id, code, virtual]) => ({
			id: String(id),
			code: String(code),
			virtual: virtual === true
		})),
		partners: keyed(got.partners, ([, code, name]) => ({ code: String(code), name: String(name) }))
	};
}

/**
 * The mark that a trace starts from, and with a lot the serials that belong to it.
 * @returns null when there is none of that name
 */
export async function findRoots(
	sql: Db,
	name: { item: string; lot?: string | null; serial?: string | null } | { mark: string }
): Promise<string[] | null> {
	const root =
		'mark' in name
			? sql`SELECT id FROM mark WHERE id = ${name.mark} AND kind <> 'unmarked'`
			: sql`SELECT m.id FROM mark m WHERE m.item_id = (SELECT id FROM item WHERE code = ${name.item}) AND ${
					name.serial
						? sql`m.kind = 'serial' AND m.serial_no = ${name.serial}`
						: sql`m.kind = 'lot' AND m.lot_no = ${name.lot ?? ''}`
				}`;
	const rows = await sql<{ id: string }[]>`
		WITH root AS MATERIALIZED (${root}) SELECT id FROM root UNION ALL SELECT k.id FROM mark k WHERE k.parent_id = (SELECT id FROM root)`;
	return rows.length ? rows.map((r) => r.id) : null;
}
