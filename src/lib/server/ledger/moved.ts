import { KINDS } from '../../core/ledger/events.ts';
import { sayCounted, type Counted } from '../../core/ledger/counted.ts';
import { EVIDENCE } from '../../core/ledger/evidence.ts';
import { sayChange } from '../../core/ledger/change.ts';
import type { Field } from '../../core/ledger/corrections.ts';
import { timeIn } from '../../core/time/clock.ts';
import type { Db } from '../database/connect.ts';
import { itemColumn, placeChoice } from '../list/choices.ts';
import { marksLike } from '../list/numbers.ts';
import type { ListSource } from '../list/source.ts';
import { allFacts } from '../marks/facts.ts';
import { firmZone } from '../marks/zone.ts';

/**
 * Movements from or to one place, by its id: each end is read in the order of booking from an index of its own, so that a place
 * at which nothing was moved lately is not looked for among all that was moved elsewhere since. None has the same place at both.
 */
const movedAt = (place: string) =>
	`(SELECT * FROM movement WHERE from_place = ${place} UNION ALL SELECT * FROM movement WHERE to_place = ${place})`;

/** Everything that was ever moved, in the order of booking: of one event, item or place when it is narrowed to it. */
export const movedList: ListSource = {
	key: 'moved',
	title: 'Movements',
	right: 'read',
	find: 'Find a number',
	empty: 'Nothing was moved yet.',
	id: ['m.id'],
	sort: { key: 'line', down: true },
	// All of it is there; joined so, what a page is not found by is left out of the search for it.
	from: ({ ids: { place = [] } }) =>
		`${place.length === 1 ? movedAt(place[0]) : 'movement'} m LEFT JOIN event e ON e.id = m.event_id LEFT JOIN mark_now k ON k.id = m.mark_id LEFT JOIN item i ON i.id = k.item_id LEFT JOIN place f ON f.id = m.from_place LEFT JOIN place t ON t.id = m.to_place
		LEFT JOIN run r ON r.id = m.run_id WHERE true`,
	finds: async (sql, text) => {
		const { pattern, marks } = await marksLike(sql, text);
		return { where: marks ? sql`m.mark_id = ANY(ARRAY(${marks}))` : sql`lower(k.number) LIKE ${pattern}` };
	},
	also: { mark: 'k.id', markKind: 'k.kind', unit: 'i.unit', status: 'k.status', eventId: 'e.id' },
	columns: [
		{ key: 'line', label: 'Line', kind: 'number', from: 'm.id', filled: true },
		{ key: 'at', label: 'When', kind: 'moment', from: 'm.at', filled: true },
		{
			key: 'act',
			label: 'Act',
			kind: 'choice',
			from: 'e.kind',
			filled: true,
			choices: KINDS.map((value) => ({ value, label: value }))
		},
		{
			key: 'event',
			label: 'Event',
			kind: 'number',
			from: 'm.event_id',
			filled: true,
			extra: true,
			// As ids are kept, so that an index finds them.
			where: (sql, { from, to }) =>
				sql`m.event_id BETWEEN ceil(${from ?? '0'}::text::numeric)::bigint AND floor(${to ?? '999999999999999'}::text::numeric)::bigint`
		},
		itemColumn,
		{ key: 'number', label: 'Number', kind: 'text', from: 'k.number', mono: true },
		{ key: 'qty', label: 'Quantity', kind: 'number', from: 'm.qty', text: 'trim_scale(m.qty)::text', filled: true },
		{
			key: 'cost',
			label: 'Cost of one',
			kind: 'number',
			from: 'm.unit_cost',
			text: 'trim_scale(m.unit_cost)::text',
			extra: true
		},
		{ key: 'from', label: 'From', kind: 'text', from: 'f.code', filled: true, mono: true },
		{ key: 'to', label: 'To', kind: 'text', from: 't.code', filled: true, mono: true },
		{
			...placeChoice,
			label: 'From or to',
			filterOnly: true,
			where: (sql, _f, { ids }) =>
				sql`(m.from_place = ANY(${ids.place}::bigint[]) OR m.to_place = ANY(${ids.place}::bigint[]))`,
			fitting: (sql, _f, { filters, ids }) =>
				Object.keys(filters).length === 1
					? sql`SELECT m.id FROM movement m WHERE m.from_place = ANY(${ids.place}::bigint[])
							UNION ALL SELECT m.id FROM movement m WHERE m.to_place = ANY(${ids.place}::bigint[])`
					: null
		},
		{ key: 'run', label: 'Run', kind: 'text', from: 'r.code', mono: true, extra: true },
		{
			key: 'known',
			label: 'Known by',
			kind: 'choice',
			from: 'm.evidence',
			extra: true,
			choices: EVIDENCE.map((value) => ({ value, label: value }))
		}
	]
};

/**
 * What an event moved, as people count it: "140 pieces in 3 lots, 40 serials". Of an event that makes something it is that;
 * "" of one that moved nothing.
 */
export async function movedWords(sql: Db, event: string): Promise<string> {
	return sayCounted(
		await sql<Counted[]>`
			SELECT k.kind, i.unit, count(DISTINCT m.mark_id)::int AS numbers, trim_scale(sum(m.qty))::text AS qty
			FROM movement m JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
			WHERE m.event_id = ${event}
				AND (m.role = 'make' OR NOT EXISTS (SELECT 1 FROM movement x WHERE x.event_id = ${event} AND x.role = 'make'))
				-- What the event itself brought there and moves on, as what comes back and is scrapped, counts once.
				AND NOT EXISTS (SELECT 1 FROM movement x WHERE x.event_id = ${event} AND x.mark_id = m.mark_id AND x.to_place = m.from_place
					AND x.id < m.id)
			GROUP BY 1, 2 ORDER BY 1, 2`
	);
}

/** What an event says of itself, as people read it. */
export interface EventHead {
	id: string;
	kind: string;
	key: string;
	at: string;
	recordedAt: string;
	by: string;
	source: string;
	document: string | null;
	partner: string | null;
	order: string | null;
	orderKind: string | null;
	reason: string | null;
	note: string | null;
	/** the event that it takes back, and the one that took it back */
	undoes: string | null;
	undone: string | null;
	/** how many movements it has */
	movements: number;
	/** what it changed of lots and serials, at most as many as are shown */
	changes: { mark: string; number: string; said: string }[];
	/** there are more of them */
	more: boolean;
}
/** The most changes of one event that are shown. */
const MOST_CHANGES = 200;

/** What an event says of itself; null when there is none with that id. */
export async function eventHead(sql: Db, id: string): Promise<EventHead | null> {
	const [[event], changes, defined, zone] = await Promise.all([
		sql<(Omit<EventHead, 'at' | 'recordedAt' | 'changes' | 'more'> & { at: Date; recordedAt: Date })[]>`
			SELECT e.id, e.kind, e.key, e.at, e.recorded_at AS "recordedAt", coalesce(n.name, e.recorded_by) AS by, e.source, e.document, coalesce(q.name, j.name) AS partner, o.code AS order, o.kind AS "orderKind",
				e.reason, e.note, e.undoes, (SELECT u.id FROM event u WHERE u.undoes = e.id) AS undone, (SELECT count(*)::int FROM movement m WHERE m.event_id = e.id) AS movements
			FROM event e LEFT JOIN person n ON n.login = e.recorded_by LEFT JOIN partner q ON q.id = e.partner_id LEFT JOIN job j ON j.id = e.job_id LEFT JOIN orders o ON o.id = e.order_id WHERE e.id = ${id}`,
		sql<{ mark: string; number: string; field: Field; old: string | null; new: string | null }[]>`
			SELECT c.mark_id AS mark, k.number, c.field, CASE c.field WHEN 'parent_id' THEN (SELECT lot_no FROM mark WHERE id = c.old::bigint) ELSE c.old END,
				CASE c.field WHEN 'parent_id' THEN (SELECT lot_no FROM mark WHERE id = c.new::bigint) ELSE c.new END FROM mark_change c JOIN mark k ON k.id = c.mark_id WHERE c.event_id = ${id} ORDER BY k.number COLLATE natural_order, c.field LIMIT ${MOST_CHANGES + 1}`,
		allFacts(sql),
		firmZone(sql)
	]);
	if (!event) return null;
	return {
		...event,
		at: timeIn(zone, event.at),
		recordedAt: timeIn(zone, event.recordedAt),
		changes: changes
			.slice(0, MOST_CHANGES)
			.map((c) => ({ mark: c.mark, number: c.number, said: sayChange(c.field, c.old, c.new, defined) })),
		more: changes.length > MOST_CHANGES
	};
}
