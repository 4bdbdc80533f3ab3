import type { Db } from '../database/connect.ts';
import type { MarkName, NamedSlice } from '../../core/trace/present.ts';
import type { Moves } from '../../core/trace/types.ts';
import type { NamedMark } from '../marks/named.ts';
import { isOf, stood, type Moment } from './moment.ts';

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

/** What was recorded of numbers after a moment: of each field what it was before the first change. */
const lateChanges = (
	sql: Db,
	moment: Moment
) => sql`(SELECT DISTINCT ON (mark_id, field) mark_id, field, old FROM mark_change
	WHERE event_id > ${moment.last}::bigint OR event_id = ANY(${moment.without}::bigint[]) ORDER BY mark_id, field, event_id)`;
/** Numbers with what was in force of them by a moment, in the columns of mark_now that a trace reads. */
const marksAt = (sql: Db, moment: Moment | null) => {
	if (!moment?.changed) return sql`mark_now`;
	const was = (field: 'lot_no' | 'serial_no' | 'status' | 'parent_id' | 'expires_on', type: ReturnType<Db>) =>
		sql`CASE WHEN c.f ? ${field} THEN (c.f ->> ${field})::${type} ELSE k.${sql(field)} END AS ${sql(field)}`;
	const then = sql`(SELECT k.id, k.item_id, k.kind, ${was('lot_no', sql`text`)}, ${was('serial_no', sql`text`)}, ${was('status', sql`text`)},
		${was('parent_id', sql`bigint`)}, ${was('expires_on', sql`date`)} FROM mark k
		LEFT JOIN (SELECT mark_id, jsonb_object_agg(field, old) AS f FROM ${lateChanges(sql, moment)} l GROUP BY 1) c ON c.mark_id = k.id)`;
	return sql`(SELECT k.id, k.item_id, k.kind, coalesce(k.serial_no, k.lot_no) AS number, l.lot_no AS of_lot, worse_status(k.status, l.status) AS status,
		coalesce(k.expires_on, l.expires_on) AS expires_on FROM ${then} k LEFT JOIN ${then} l ON l.id = k.parent_id)`;
};

/** The mark that a trace starts from, and with a lot the serials that belong to it: the CTE `roots`. */
const rootsOf = (sql: Db, name: RootName, moment: Moment | null) => {
	const root =
		'mark' in name
			? sql`SELECT id FROM mark WHERE id = ${name.mark} AND kind <> 'unmarked'`
			: sql`SELECT m.id FROM mark m WHERE m.item_id = (SELECT id FROM item WHERE code = ${name.item}) AND ${
					name.serial
						? sql`m.kind = 'serial' AND m.serial_no = ${name.serial}`
						: sql`m.kind = 'lot' AND m.lot_no = ${name.lot ?? ''}`
				}`;
	const known = moment
		? sql`SELECT r.id FROM (${root}) r JOIN mark k ON k.id = r.id AND (k.event_id IS NULL OR ${isOf(sql, moment, sql`k.event_id`)})`
		: root;
	const own = moment
		? sql`SELECT k.id, 1 FROM mark k WHERE k.parent_id = (SELECT id FROM root) AND (k.event_id IS NULL OR ${isOf(sql, moment, sql`k.event_id`)})
			${
				moment.changed
					? sql`AND k.id NOT IN (SELECT mark_id FROM ${lateChanges(sql, moment)} c WHERE c.field = 'parent_id')
						UNION SELECT c.mark_id, 1 FROM ${lateChanges(sql, moment)} c WHERE c.field = 'parent_id' AND c.old = (SELECT id FROM root)::text`
					: sql``
			}`
		: sql`SELECT k.id, 1 FROM mark k WHERE k.parent_id = (SELECT id FROM root)`;
	return sql`root AS MATERIALIZED (${known}),
	roots AS MATERIALIZED (SELECT id, 0 AS nth FROM root UNION ALL ${own})`;
};

/**
 * All movements of every mark that the roots could have gone into, whatever the times; the trace itself decides.
 * Unmarked stock is not followed: of it only what those runs made is read. One walk from movement to movement, so that
 * no mark is looked up twice.
 */
export const forwardSlice = (sql: Db, name: RootName, asOf: string | null, moment: Moment | null = null) =>
	load(
		sql,
		name,
		asOf,
		moment,
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
			JOIN movement m ON m.mark_id = next.mark_id AND (NOT next.hidden OR (m.run_id = next.run_id AND m.role = 'make')))`
	);

/** Makes, uses, detaches and arrivals of everything that could be in the roots. */
export const backSlice = (sql: Db, name: RootName, asOf: string | null, moment: Moment | null = null) =>
	load(
		sql,
		name,
		asOf,
		moment,
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
	length: number;
	id: string | null;
	event: string;
	mark: string;
	qty: string;
	from: string;
	to: string;
	run: string;
	way: string;
	/** the units that are built by the runs */
	units: string;
	events: Cell[][] | null;
	runs: Cell[][] | null;
	places: Cell[][] | null;
	partners: Cell[][] | null;
	jobs: Cell[][] | null;
}
interface MarkColumns {
	length: number;
	id: string | null;
	kind: string;
	number: string;
	lot: string;
	expires: string;
	status: string;
	item: string;
	items: Cell[][];
}
const KINDS = { lot: 'lot', serial: 'serial', unmarked: 'unmarked' } as const;
const KNOWN = [null, 'scanned', 'entered', 'accepted', 'reported'] as const;
const ROLES = [null, 'use', 'make', 'detach'] as const;
/** Between the values of a column of text: no number may hold it. */
const BREAK = '\x1f';
const text = (c: Cell) => (c === null ? null : String(c));
const keyed = <T>(rows: Cell[][] | null, read: (row: Cell[]) => T) =>
	new Map((rows ?? []).sort((a, b) => Number(a[0]) - Number(b[0])).map((r) => [String(r[0]), read(r)]));

/**
 * Reads a slice in two statements: the movements with what they refer to, then the names of the marks, which the database
 * looks up while the movements are read here. Both come column by column, each as one text: far less to build and to read
 * than a row each. What was undone is left out by its event, so that it is asked once an event. A mark is never deleted,
 * so that the second finds all that the first named.
 * @param moment the ledger as it was with so many entries; as it is where it is null
 * @param parts the CTE `moved`, the movements that matter, and what it is made from
 * @returns null when there is no such lot or serial
 */
async function load(
	sql: Db,
	name: RootName,
	asOf: string | null,
	moment: Moment | null,
	parts: ReturnType<Db>
): Promise<Slice | null> {
	const [got] = await sql<[Columns]>`
		WITH RECURSIVE ${rootsOf(sql, name, moment)}, ${parts},
		happened AS MATERIALIZED (
			SELECT e.id, e.at, e.partner_id, e.job_id FROM event e WHERE e.id IN (SELECT event_id FROM moved) AND ${stood(sql, moment, sql`e`)} ${asOf ? sql`AND e.at <= ${asOf}::timestamptz` : sql``}),
		held AS MATERIALIZED (SELECT r.* FROM run r WHERE r.id IN (SELECT m.run_id FROM moved m))
		SELECT moves.*, (SELECT array_agg(id ORDER BY nth, id) FROM roots) AS roots,
			coalesce((SELECT string_agg(unit_mark::text, ',') FROM held), '') AS units,
			(SELECT json_agg(json_build_array(id, to_char(at AT TIME ZONE 'UTC', ${ISO}), partner_id, job_id)) FROM happened) AS events,
			(SELECT json_agg(json_build_array(r.id, r.code, r.unit_mark, r.planned::text,
				EXISTS (SELECT 1 FROM run_closing c WHERE c.run_id = r.id AND ${isOf(sql, moment, sql`c.event_id`)}
					AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = c.event_id AND ${isOf(sql, moment, sql`u.id`)})))) FROM held r) AS runs,
			(SELECT json_agg(json_build_array(id, code, name)) FROM partner WHERE id IN (SELECT partner_id FROM happened)) AS partners,
			(SELECT json_agg(json_build_array(j.id, j.code, j.name, p.name, p.code)) FROM job j LEFT JOIN partner p ON p.id = j.partner_id WHERE j.id IN (SELECT job_id FROM happened)) AS jobs,
			(SELECT json_agg(json_build_array(id, code, virtual)) FROM place) AS places
		FROM (SELECT count(*)::int AS length, string_agg(m.id::text, ',') AS id, string_agg(m.event_id::text, ',') AS event, string_agg(m.mark_id::text, ',') AS mark,
				string_agg(m.qty::text, ',') AS qty, string_agg(m.from_place::text, ',') AS from, string_agg(m.to_place::text, ',') AS to,
				string_agg(coalesce(m.run_id::text, ''), ',') AS run, string_agg(m.way::text, ',') AS way
			FROM moved m WHERE m.event_id IN (SELECT id FROM happened)) moves`;
	if (!got.roots) return null;
	const ids = `{${[...got.roots, got.mark, got.units].filter(Boolean).join(',')}}`;
	const asked = sql<[MarkColumns]>`
		SELECT of_marks.*, (SELECT json_agg(json_build_array(id, code, name, unit, decimals, content_qty::text, content_unit))
				FROM item WHERE id = ANY(of_marks.item_ids)) AS items
		FROM (SELECT count(*)::int AS length, string_agg(id::text, ',') AS id, string_agg(kind, ',') AS kind, string_agg(coalesce(number, ''), ${BREAK}) AS number,
				string_agg(coalesce(of_lot, ''), ${BREAK}) AS lot, string_agg(coalesce(expires_on::text, ''), ',') AS expires,
				string_agg(status, ',') AS status, string_agg(item_id::text, ',') AS item, array_agg(DISTINCT item_id) AS item_ids
			FROM ${marksAt(sql, moment)} of_mark WHERE id = ANY(${ids}::bigint[])) of_marks`.execute();
	const same = oneOfEach();
	// It is sent when the code lets go for a moment: without that the database would wait for what is read here.
	await Promise.resolve();
	const movements = movementsOf(got, same);
	const [named] = await asked;
	return {
		roots: got.roots,
		movements,
		marks: marksOf(named, same),
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
		jobs: keyed(got.jobs, ([, code, name, partner, partnerCode]) => ({
			code: String(code),
			name: String(name),
			partner: text(partner),
			partnerCode: text(partnerCode)
		})),
		partners: keyed(got.partners, ([, code, name]) => ({ code: String(code), name: String(name) }))
	};
}

/** Gives the values of a column one by one: a list of them all would only be made to be thrown away. */
function reader(column: string, sign = ','): () => string {
	let from = 0;
	return () => {
		const end = column.indexOf(sign, from);
		const value = end < 0 ? column.slice(from) : column.slice(from, end);
		from = end < 0 ? column.length : end + 1;
		return value;
	};
}
/** Gives of equal texts always the one: what is read from columns names the same marks and states again and again. */
type Same = (text: string) => string;
function oneOfEach(): Same {
	const known = new Map<string, string>();
	return (text) => {
		const there = known.get(text);
		if (there === undefined) known.set(text, text);
		return there ?? text;
	};
}
/** A column of which most values say what others say: each text once, and which of them stands in which row. */
function shared(column: string, length: number, same: Same): (row: number) => string {
	const known = new Map<string, number>();
	const values: string[] = [];
	const which = new Uint32Array(length);
	const next = reader(column);
	for (let row = 0; row < length; row++) {
		const value = next();
		let at = known.get(value);
		if (at === undefined) {
			known.set(value, (at = values.length));
			values.push(same(value));
		}
		which[row] = at;
	}
	return (row) => values[which[row]];
}
/** A column of small numbers or ids, which are far below what a float holds exactly. */
function numbers<T extends Float64Array | Uint8Array>(column: string, into: T): T {
	const next = reader(column);
	for (let row = 0; row < into.length; row++) into[row] = Number(next());
	return into;
}

/**
 * The movements, by time, then in the order of booking. They stay columns, and each becomes an object when it is read: there
 * are hundreds of thousands, and a trace wants one at a time.
 */
function movementsOf(got: Columns, same: Same): Moves {
	const { length } = got;
	if (!got.id) return [];
	const list = (got.events ?? []).map(([id, at, partner, job]) => ({
		id: String(id),
		at: String(at),
		partner: text(partner),
		job: text(job)
	}));
	// Times are compared once an event; for each movement it is numbers.
	list.sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : 0));
	const times = new Uint32Array(list.length);
	for (let i = 1; i < list.length; i++) times[i] = list[i].at === list[i - 1].at ? times[i - 1] : i;
	const nth = new Map(list.map((e, i) => [e.id, i]));
	const event = new Uint32Array(length);
	const next = reader(got.event);
	for (let row = 0; row < length; row++) event[row] = nth.get(next())!;
	const id = numbers(got.id, new Float64Array(length));
	const way = numbers(got.way, new Uint8Array(length));
	const [mark, qty, from, to, run] = [got.mark, got.qty, got.from, got.to, got.run].map((c) => shared(c, length, same));
	const order = new Uint32Array(length)
		.map((_row, i) => i)
		.sort((a, b) => times[event[a]] - times[event[b]] || id[a] - id[b]);
	return {
		length,
		*[Symbol.iterator]() {
			for (const row of order) {
				const { id: of, at, partner, job } = list[event[row]];
				yield {
					id: String(id[row]),
					at,
					mark: mark(row),
					qty: qty(row),
					from: from(row),
					to: to(row),
					run: run(row) || null,
					role: ROLES[way[row] % 4],
					partner,
					job,
					event: of,
					evidence: KNOWN[way[row] >> 2]
				};
			}
		}
	};
}

/** The marks by their ids, in the order of these: whoever reads the same answers in the same order. */
function marksOf(got: MarkColumns, same: Same): Map<string, MarkName> {
	const items = keyed(got.items, ([, item, itemName, unit, decimals, measure, measureUnit]) => ({
		item: String(item),
		itemName: String(itemName),
		unit: String(unit),
		decimals: Number(decimals),
		measure: text(measure),
		measureUnit: text(measureUnit)
	}));
	const [nextId, nextKind, nextExpires, nextStatus, nextItem] = [
		...[got.id!, got.kind, got.expires, got.status, got.item]
	].map((c) => reader(c));
	const [nextNumber, nextLot] = [got.number, got.lot].map((c) => reader(c, BREAK));
	const marks: MarkName[] = [];
	for (let row = 0; row < got.length; row++) {
		const id = same(nextId());
		const kind = KINDS[nextKind() as keyof typeof KINDS];
		const number = nextNumber() || null;
		const lot = same(nextLot()) || null;
		const of = items.get(nextItem())!;
		// Field by field: spreading takes longer than all the rest.
		marks.push({
			id,
			kind,
			number,
			lot: kind === 'lot' ? number : lot,
			item: of.item,
			itemName: of.itemName,
			unit: of.unit,
			decimals: of.decimals,
			measure: of.measure,
			measureUnit: of.measureUnit,
			expiresOn: same(nextExpires()) || null,
			status: same(nextStatus())
		});
	}
	const ids = marks.map((m) => Number(m.id));
	if (ids.some((id, n) => n > 0 && id < ids[n - 1])) marks.sort((a, b) => Number(a.id) - Number(b.id));
	return new Map(marks.map((m) => [m.id, m]));
}
