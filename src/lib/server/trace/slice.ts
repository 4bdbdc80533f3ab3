import type { Db } from '../database/connect.ts';
import type { MarkName, NamedSlice } from '../../core/trace/present.ts';
import type { Moved } from '../../core/trace/types.ts';
import type { NamedMark } from '../marks/named.ts';

/** The part of the ledger that a trace reads, with the names of what is in it. */
export interface Slice extends NamedSlice {
	/** the mark that it starts from, and with a lot the serials that belong to it */
	roots: string[];
}
/** What a trace starts from: by the names that people and programs use, or by its id. */
export type RootName = NamedMark | { mark: string };

const ISO = 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"';
/** A moment in the width that the slice's times have. */
export const sliceTime = (iso: string) => new Date(iso).toISOString().replace(/(\.\d{3})Z$/, '$1000Z');
/** A slice's time as the interfaces show it: without a fraction that is zero. */
export const plainTime = (at: string) => (at.endsWith('.000000Z') ? at.slice(0, 19) + 'Z' : at.replace(/0+Z$/, 'Z'));

/** A movement's role and evidence as one small number: what is read and compared for each is short. */
const way = (sql: Db) => sql`(CASE m.role WHEN 'use' THEN 1 WHEN 'make' THEN 2 WHEN 'detach' THEN 3 ELSE 0 END
	+ CASE m.evidence WHEN 'scanned' THEN 4 WHEN 'entered' THEN 8 WHEN 'accepted' THEN 12 WHEN 'reported' THEN 16 ELSE 0 END)::smallint AS way`;
const columns = (sql: Db) => sql`m.id, m.event_id, m.mark_id, m.qty, m.from_place, m.to_place, m.run_id, ${way(sql)}`;
/** Unmarked stock is one hidden mark an item: few, so that asking for them once beats a look at every mark. */
const unmarked = (sql: Db) => sql`(SELECT id FROM mark WHERE kind = 'unmarked')`;

/** The mark that a trace starts from, and with a lot the serials that belong to it: the CTE `roots`. */
const rootsOf = (sql: Db, name: RootName) => {
	const root =
		'mark' in name
			? sql`SELECT id FROM mark WHERE id = ${name.mark} AND kind <> 'unmarked'`
			: sql`SELECT m.id FROM mark m WHERE m.item_id = (SELECT id FROM item WHERE code = ${name.item}) AND ${
					name.serial
						? sql`m.kind = 'serial' AND m.serial_no = ${name.serial}`
						: sql`m.kind = 'lot' AND m.lot_no = ${name.lot ?? ''}`
				}`;
	return sql`root AS MATERIALIZED (${root}),
	roots AS MATERIALIZED (SELECT id, 0 AS nth FROM root UNION ALL SELECT k.id, 1 FROM mark k WHERE k.parent_id = (SELECT id FROM root))`;
};

/**
 * All movements of every mark that the roots could have gone into, whatever the times; the trace itself decides.
 * Unmarked stock is not followed: of it only what those runs made is read. One walk from movement to movement, so that
 * no mark is looked up twice.
 */
export const forwardSlice = (sql: Db, name: RootName, asOf: string | null) =>
	load(
		sql,
		name,
		asOf,
		sql`
	moved AS (
		SELECT ${columns(sql)} FROM movement m WHERE m.mark_id IN (SELECT id FROM roots)
		UNION
		SELECT ${columns(sql)} FROM (
			SELECT DISTINCT r.id AS run_id, out.mark_id, out.mark_id IN ${unmarked(sql)} AS hidden FROM moved
				JOIN run r ON r.id = moved.run_id
				CROSS JOIN LATERAL (
					SELECT r.unit_mark AS mark_id WHERE r.unit_mark IS NOT NULL
					UNION ALL SELECT m.mark_id FROM movement m WHERE m.run_id = r.id AND m.role = 'make' AND r.unit_mark IS NULL) out
				WHERE moved.way % 4 = 1) next
			JOIN movement m ON m.mark_id = next.mark_id AND (NOT next.hidden OR (m.run_id = next.run_id AND m.role = 'make'))),
	touched AS (
		SELECT m.mark_id AS id FROM moved m UNION SELECT id FROM roots
		UNION SELECT unit_mark FROM held WHERE unit_mark IS NOT NULL)`
	);

/** Makes, uses, detaches and arrivals of everything that could be in the roots. */
export const backSlice = (sql: Db, name: RootName, asOf: string | null) =>
	load(
		sql,
		name,
		asOf,
		sql`
	touched(id) AS (
		SELECT id FROM roots
		UNION
		SELECT u.mark_id FROM touched
			CROSS JOIN LATERAL (
				SELECT m.run_id FROM movement m WHERE m.mark_id = touched.id AND m.role = 'make'
				UNION SELECT r.id FROM run r WHERE r.unit_mark = touched.id) made
			JOIN movement u ON u.run_id = made.run_id AND u.role = 'use'
			WHERE touched.id NOT IN ${unmarked(sql)}),
	fed AS (
		SELECT DISTINCT m.run_id AS id FROM touched JOIN movement m ON m.mark_id = touched.id AND m.role = 'make' WHERE touched.id NOT IN ${unmarked(sql)}
		UNION SELECT r.id FROM touched JOIN run r ON r.unit_mark = touched.id),
	moved AS MATERIALIZED (
		SELECT ${columns(sql)} FROM touched JOIN movement m ON m.mark_id = touched.id LEFT JOIN place f ON f.id = m.from_place
			WHERE touched.id NOT IN ${unmarked(sql)} AND (m.role = 'make' OR (m.role IS NULL AND f.virtual))
		UNION ALL
		SELECT ${columns(sql)} FROM fed JOIN movement m ON m.run_id = fed.id AND m.role IN ('use', 'detach'))`
	);

type Cell = string | number | boolean | null;
interface Columns {
	roots: string[] | null;
	/** a movement after the other, separated by commas, its columns by blanks */
	moved: string | null;
	k_id: string | null;
	k_kind: string;
	/** as JSON: a number may hold any sign */
	k_number: (string | null)[];
	k_parent: (string | null)[];
	k_expires: string;
	k_status: string;
	k_item: string;
	events: Cell[][] | null;
	runs: Cell[][] | null;
	items: Cell[][] | null;
	places: Cell[][] | null;
	partners: Cell[][] | null;
	jobs: Cell[][] | null;
}
const KINDS = ['lot', 'serial', 'unmarked'] as const;
const KNOWN = [null, 'scanned', 'entered', 'accepted', 'reported'] as const;
const ROLES = [null, 'use', 'make', 'detach'] as const;
const list = (array: string) => array.slice(1, -1).split(',');

/**
 * Reads a slice in one statement. Movements come as one text, marks column by column: far less to build and to read than a
 * row each. What was undone is left out by its event, so that it is asked once an event.
 * @param parts the CTEs that end in `touched`, every mark that matters, and `moved`, its movements that do; they may use
 *   `held`, the runs of those
 * @returns null when there is no such lot or serial
 */
async function load(sql: Db, name: RootName, asOf: string | null, parts: ReturnType<Db>): Promise<Slice | null> {
	const rows: Columns[] = await sql`
		WITH RECURSIVE ${rootsOf(sql, name)}, ${parts},
		happened AS MATERIALIZED (
			SELECT e.id, e.at, e.partner_id, e.job_id FROM event e WHERE e.id IN (SELECT event_id FROM moved) AND e.kind <> 'undo'
				AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id) ${asOf ? sql`AND e.at <= ${asOf}::timestamptz` : sql``}),
		held AS MATERIALIZED (SELECT r.* FROM run r WHERE r.id IN (SELECT m.run_id FROM moved m)),
		listed AS MATERIALIZED (
			SELECT k.id, k.kind, k.number, k.of_lot, k.expires_on, k.status, k.item_id FROM touched JOIN mark_now k ON k.id = touched.id)
		SELECT moves.*, marks.*, (SELECT array_agg(id ORDER BY nth, id) FROM roots) AS roots,
			(SELECT json_agg(json_build_array(id, to_char(at AT TIME ZONE 'UTC', ${ISO}), partner_id, job_id)) FROM happened) AS events,
			(SELECT json_agg(json_build_array(r.id, r.code, r.unit_mark, r.planned::text,
				EXISTS (SELECT 1 FROM run_closing c WHERE c.run_id = r.id AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = c.event_id)))) FROM held r) AS runs,
			(SELECT json_agg(json_build_array(id, code, name, unit, decimals, content_qty::text, content_unit)) FROM item
				WHERE id IN (SELECT DISTINCT item_id FROM listed)) AS items,
			(SELECT json_agg(json_build_array(id, code, name)) FROM partner WHERE id IN (SELECT partner_id FROM happened)) AS partners,
			(SELECT json_agg(json_build_array(j.id, j.code, j.name, p.name)) FROM job j LEFT JOIN partner p ON p.id = j.partner_id WHERE j.id IN (SELECT job_id FROM happened)) AS jobs,
			(SELECT json_agg(json_build_array(id, code, virtual)) FROM place) AS places
		FROM (SELECT string_agg(concat_ws(' ', m.id, m.event_id, m.mark_id, m.qty, m.from_place, m.to_place, coalesce(m.run_id, 0), m.way), ',') AS moved
			FROM moved m WHERE m.event_id IN (SELECT id FROM happened)) moves,
			(SELECT array_agg(k.id)::text AS k_id, string_agg(k.kind, ' ') AS k_kind, json_agg(k.number) AS k_number,
				json_agg(k.of_lot) AS k_parent, array_agg(k.expires_on)::text AS k_expires, string_agg(k.status, ' ') AS k_status,
				array_agg(k.item_id)::text AS k_item FROM listed k) marks`;
	const [got] = rows;
	if (!got.roots) return null;
	const text = (c: Cell) => (c === null ? null : String(c));
	const keyed = <T>(rows: Cell[][] | null, read: (row: Cell[]) => T) =>
		new Map((rows ?? []).map((r) => [String(r[0]), read(r)]));
	const events = keyed(got.events, ([, at, partner, job]) => ({
		at: String(at),
		partner: text(partner),
		job: text(job)
	}));
	const items = keyed(got.items, ([, item, itemName, unit, decimals, measure, measureUnit]) => ({
		item: String(item),
		itemName: String(itemName),
		unit: String(unit),
		decimals: Number(decimals),
		measure: text(measure),
		measureUnit: text(measureUnit)
	}));
	const movements: Moved[] = [];
	if (got.moved)
		for (const row of got.moved.split(',')) {
			const [id, event, mark, qty, from, to, run, known] = row.split(' ');
			const { at, partner, job } = events.get(event)!;
			const way = Number(known);
			movements.push({
				id,
				at,
				mark,
				qty,
				from,
				to,
				run: run === '0' ? null : run,
				role: ROLES[way % 4],
				partner,
				job,
				event,
				evidence: KNOWN[way >> 2]
			});
		}
	// By time, then in the order of booking; ids are far below what a float holds exactly.
	const key = new Map([...new Set(movements.map((m) => m.at))].sort().map((at, i) => [at, i]));
	const [time, no] = [movements.map((m) => key.get(m.at)!), movements.map((m) => Number(m.id))];
	const order = movements.map((_m, i) => i).sort((a, b) => time[a] - time[b] || no[a] - no[b]);
	const marks = new Map<string, MarkName>();
	if (got.k_id) {
		const [kinds, statuses] = [got.k_kind, got.k_status].map((t) => t.split(' '));
		const [expires, item] = [list(got.k_expires), list(got.k_item)];
		list(got.k_id).forEach((id, i) => {
			const kind = KINDS.find((k) => k === kinds[i])!;
			const number = got.k_number[i];
			const of = items.get(item[i])!;
			// Field by field: spreading takes longer than all the rest.
			marks.set(id, {
				id,
				kind,
				number,
				lot: kind === 'lot' ? number : got.k_parent[i],
				item: of.item,
				itemName: of.itemName,
				unit: of.unit,
				decimals: of.decimals,
				measure: of.measure,
				measureUnit: of.measureUnit,
				expiresOn: expires[i] === 'NULL' ? null : expires[i],
				status: statuses[i]
			});
		});
	}
	return {
		roots: got.roots,
		movements: order.map((i) => movements[i]),
		marks,
		runs: keyed(got.runs, ([id, code, unit, planned, closed]) => ({
			id: String(id),
			code: String(code),
			unit: text(unit),
			planned: text(planned),
			closed: closed === true
		})),
		places: keyed(got.places, ([id, code, virtual]) => ({
			id: String(id),
			code: String(code),
			virtual: virtual === true
		})),
		jobs: keyed(got.jobs, ([, code, name, partner]) => ({
			code: String(code),
			name: String(name),
			partner: text(partner)
		})),
		partners: keyed(got.partners, ([, code, name]) => ({ code: String(code), name: String(name) }))
	};
}
