import { grouped } from '../../core/quantity/sign.ts';
import { z } from 'zod';
import type { Db, Sql } from '../database/connect.ts';
import { like } from '../database/like.ts';
import { group } from '../../core/group/group.ts';
import { compress, expand, natural, type Range } from '../../core/ranges/ranges.ts';
import type { AskedFact, Facts } from '../../core/facts/fact.ts';
import { Problem } from '../../core/problem/problem.ts';
import { book, type Booked } from '../ledger/book.ts';
import type { Actor, EventInput } from '../../core/ledger/input.ts';
import { factValues, key, line, number, text } from '../../core/text/input.ts';
import { factColumns } from '../marks/facts.ts';
import { binsHolding } from '../marks/onhand.ts';
import { parse } from '../parse.ts';

/** Something that lies at a place: a lot, unmarked stock, or a range of serials of one lot. */
export interface Lying {
	key: string;
	kind: 'lot' | 'serial' | 'unmarked';
	item: string;
	itemName: string;
	unit: string;
	decimals: number;
	/** the lot's number, or the first serial of the range */
	number: string | null;
	last: string | null;
	count: number;
	lot: string | null;
	mark: string | null;
	qty: string;
	expiresOn: string | null;
	status: string;
	/** where it could go from a dock: bins of this site that hold the same item, the fullest first */
	suggested: string[];
	/** facts that its rule asks when it is moved within its site, and that are not recorded yet */
	facts: AskedFact[];
}
/** The most numbers that one put-away moves. */
const MOST = 20_000;
/** The most lines that are shown of a place; beyond, they are found by what is in them. */
export const MOST_LINES = 200;

/** What is alike of what lies at a place, with the facts that are recorded of it. */
type Alike = Omit<Lying, 'key' | 'last' | 'count' | 'suggested' | 'facts'> & { itemId: string; recorded: Facts };
/** A line to be: what is alike of it, its serials where it has some, and the id of the first of them. */
interface Line {
	one: Alike;
	range: Range | null;
	mark: string;
}

/**
 * What lies at a place, serials as ranges, with bins to put it in.
 * @param find part of a number, a lot or an item; all of it without
 * @returns the first lines, and whether there are more
 */
export async function lyingAt(sql: Db, place: string, find = ''): Promise<{ lying: Lying[]; more: boolean }> {
	const pattern = `%${like(find.trim().toLowerCase())}%`;
	const here = (serial: boolean) => sql`
		FROM balance b JOIN place p ON p.id = b.place_id AND p.code = ${place} JOIN mark_now k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id
		WHERE b.qty > 0 AND NOT b.virtual AND b.serial = ${serial} ${find ? sql`AND lower(concat_ws(' ', k.number, k.of_lot, i.code, i.name)) LIKE ${pattern}` : sql``}`;
	const itemColumns = sql`i.id AS "itemId", i.code AS item, i.name AS "itemName", i.unit, i.decimals`;
	const byNumber = sql`ORDER BY i.name, k.number COLLATE natural_order`;
	// Of many lots only those that show are read. Serials whose own columns and lot are alike come as one row, with what is in force for one of them.
	const [others, serials, [at]] = await Promise.all([
		sql<Alike[]>`
			SELECT k.kind, ${itemColumns}, k.number, k.of_lot AS lot, k.id AS mark, k.facts_in_force AS recorded, trim_scale(x.qty)::text AS qty, k.expires_on AS "expiresOn", k.status
			FROM (SELECT b.mark_id, b.qty ${here(false)} ${byNumber} LIMIT ${MOST_LINES + 1}) x JOIN mark_now k ON k.id = x.mark_id JOIN item i ON i.id = k.item_id ${byNumber}`,
		sql<(Alike & { numbers: string[]; marks: string[] })[]>`
			SELECT k.kind, NULL AS number, NULL AS mark, '' AS qty, ${itemColumns}, k.of_lot AS lot, k.facts_in_force AS recorded, k.expires_on AS "expiresOn", k.status, x.numbers, x.marks
			FROM (SELECT min(n.id) AS one, array_agg(n.number) AS numbers, array_agg(n.id::text) AS marks FROM (SELECT k.* ${here(true)} LIMIT ${MOST + 1}) n
				GROUP BY n.item_id, n.parent_id, n.own_expires_on, n.own_status, n.facts) x JOIN mark_now k ON k.id = x.one JOIN item i ON i.id = k.item_id`,
		sql<{ dock: boolean }[]>`SELECT dock FROM place WHERE code = ${place}`
	]);
	const items = [...new Set([...others, ...serials].map((r) => r.itemId))];
	const asked = await sql<(AskedFact & { item: string })[]>`
		SELECT x.item_id AS item, x.how, ${factColumns(sql)} FROM item_fact x JOIN fact f ON f.id = x.fact_id
		WHERE x.step = 'move' AND x.item_id = ANY(${items}::bigint[]) ORDER BY f.name`;
	// From a dock everything is offered a bin.
	const suggested = at?.dock ? await binsHolding(sql, items, place) : () => [];
	const askedOf = group([...asked], (f) => f.item);
	const missing = ({ kind, itemId, recorded }: Alike) =>
		kind === 'unmarked' ? [] : (askedOf.get(itemId) ?? []).filter((f) => !recorded[f.code]);
	// What differs only in facts that nobody asks here is one line too.
	const groups = group([...serials], (r) =>
		[r.item, r.lot, r.status, r.expiresOn, ...missing(r).map((f) => f.code)].map((x) => x ?? '').join('\n')
	);
	const ranges = [...groups.values()].flatMap((list) => {
		const { numbers: _n, marks: _m, ...one } = list[0];
		const marks = new Map(list.flatMap((r) => r.numbers.map((n, i) => [n, r.marks[i]] as const)));
		return compress(marks.keys()).map((range) => ({ one, range, mark: marks.get(range.first)! }));
	});
	const ofItem = group<Line, string>(
		[...others.map((one) => ({ one, range: null, mark: one.mark! })), ...ranges],
		({ one }) => one.item
	);
	const inOrder = [...ofItem.values()].sort(([a], [b]) => natural.compare(a.one.itemName, b.one.itemName)).flat();
	// Of a place that holds thousands, only what is shown is put together.
	const lying = inOrder.slice(0, MOST_LINES).map(({ one, range, mark }): Lying => {
		const { itemId, recorded: _r, ...same } = one;
		const { first, last, count } = range ?? { first: same.number, last: null, count: 1 };
		return {
			...same,
			...(range ? { qty: String(count), mark: count === 1 ? mark : null } : {}),
			key: mark,
			number: first,
			last,
			count,
			suggested: suggested(itemId),
			facts: missing(one).map(({ item: _i, ...f }) => f)
		};
	});
	const read = serials.reduce((n, r) => n + r.numbers.length, 0);
	return { lying, more: inOrder.length > MOST_LINES || read > MOST };
}
/** Real places, docks first, and whether anything lies there. */
export const placesWithStock = (sql: Db) => sql<{ code: string; name: string; dock: boolean; holds: boolean }[]>`
	SELECT p.code, p.name, p.dock, EXISTS (SELECT 1 FROM balance b WHERE b.place_id = p.id AND b.qty > 0 AND NOT b.virtual) AS holds FROM place p
	WHERE NOT p.virtual AND NOT p.transit ORDER BY NOT p.dock, p.code COLLATE natural_order`;

/** What is moved from one place to bins, as parsed. */
export const moveInput = z.strictObject({
	key,
	from: line(45),
	reason: text(1000, 0).optional(),
	rows: z
		.array(
			z.strictObject({
				kind: z.enum(['lot', 'serial', 'unmarked']),
				item: line(60),
				number: number.nullable(),
				count: z.number().int().min(1).max(MOST),
				lot: number.nullable(),
				qty: z.string().max(40),
				to: line(45, 1, 'Name a bin.'),
				facts: factValues.optional()
			})
		)
		.min(1, 'Say where at least one of them goes.')
		.max(2000)
});

/**
 * Puts away from one place to bins, all in one event: a lot may be split over several.
 * @throws Problem naming each faulty line; nothing is moved then
 */
export async function putAway(sql: Sql, actor: Actor, input: unknown): Promise<Booked> {
	const { key: under, ...given } = parse(moveInput, input);
	// Counted before anything is expanded.
	const numbers = given.rows.reduce((n, r) => n + (r.kind === 'serial' ? r.count : 1), 0);
	if (numbers > MOST) throw new Problem(`That is more than ${grouped(MOST)} numbers at once. Put away in parts.`);
	const movements = given.rows.flatMap((r, i): NonNullable<EventInput['movements']> => {
		const same = { item: r.item, from: given.from, to: r.to, ...(r.facts ? { facts: r.facts } : {}) };
		if (r.kind !== 'serial') return [{ ...same, lot: r.kind === 'lot' ? r.number : null, qty: r.qty }];
		if (!r.number) throw new Problem([{ message: 'The first serial is missing. Reload the page.', at: `rows[${i}]` }]);
		return serialsFrom(r.number, r.count, i).map((serial) => ({ ...same, serial, qty: '1' }));
	});
	const sites = new Set([given.from, ...given.rows.map((r) => r.to)].map((p) => p.split('/')[0]));
	return book(
		sql,
		actor,
		{
			key: under,
			kind: sites.size > 1 ? 'transfer' : 'move',
			at: new Date().toISOString(),
			reason: given.reason || null,
			movements
		},
		{ request: given }
	);
}
function serialsFrom(first: string, count: number, row: number): string[] {
	try {
		return expand(first, count);
	} catch (e) {
		throw new Problem([{ message: (e as Error).message, at: `rows[${row}]` }]);
	}
}
