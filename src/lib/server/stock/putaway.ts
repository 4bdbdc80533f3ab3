import { z } from 'zod';
import type { Db, Sql } from '../database/connect.ts';
import { compress, expand } from '../../core/ranges/ranges.ts';
import type { AskedFact, Facts } from '../../core/facts/fact.ts';
import { Problem } from '../../core/problem/problem.ts';
import { book, type Booked } from '../ledger/book.ts';
import type { Actor, EventInput } from '../ledger/input.ts';
import { parse } from '../people/people.ts';
import { factColumns } from '../setup/facts.ts';
import { binsHolding } from './available.ts';

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
	/** where it could go: bins of this site that hold the same item, the fullest first */
	suggested: string[];
	/** facts that its rule asks when it is moved within its site, and that are not recorded yet */
	facts: AskedFact[];
}
/** The most numbers that one put-away shows and moves. */
const MOST = 20_000;

/** Everything at a place, serials as ranges, with bins to put it in. */
export async function lyingAt(sql: Db, place: string): Promise<Lying[]> {
	const rows = await sql<
		(Omit<Lying, 'key' | 'last' | 'count' | 'suggested' | 'facts'> & { itemId: string; recorded: Facts })[]
	>`
		SELECT k.kind, i.id AS "itemId", i.code AS item, i.name AS "itemName", i.unit, i.decimals, k.number, l.number AS lot, k.id AS mark, coalesce(l.facts, '{}') || k.facts AS recorded, trim_scale(b.qty)::text AS qty,
			coalesce(k.expires_on, l.expires_on) AS "expiresOn", CASE WHEN k.status = 'released' AND l.status IS NOT NULL THEN l.status ELSE k.status END AS status
		FROM balance b JOIN place p ON p.id = b.place_id AND p.code = ${place} JOIN mark k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id LEFT JOIN mark l ON l.id = k.parent_id
		WHERE b.qty > 0 AND NOT b.virtual ORDER BY i.name, l.number COLLATE natural_order, k.number COLLATE natural_order LIMIT ${MOST}`;
	const asked = await sql<(AskedFact & { item: string })[]>`
		SELECT x.item_id AS item, x.how, ${factColumns(sql)} FROM item_fact x JOIN fact f ON f.id = x.fact_id
		WHERE x.step = 'move' AND x.item_id = ANY(${[...new Set(rows.map((r) => r.itemId))]}::bigint[]) ORDER BY f.name`;
	const factsOf = (r: (typeof rows)[0]): AskedFact[] => r.kind === 'unmarked' ? [] : asked.filter((f) => f.item === r.itemId && !r.recorded[f.code]).map(({ item: _i, ...f }) => f); // prettier-ignore
	const suggested = await binsHolding(sql, rows.map((r) => r.itemId), place); // prettier-ignore
	const out: Lying[] = [];
	const groups = new Map<string, (typeof rows)[number][]>();
	for (const r of rows) {
		if (r.kind !== 'serial') {
			const { itemId, recorded: _r, ...rest } = r;
			out.push({ ...rest, key: r.mark!, last: null, count: 1, suggested: suggested(itemId), facts: factsOf(r) });
			continue;
		}
		const key = `${r.item} ${r.lot ?? ''} ${r.status} ${r.expiresOn ?? ''} ${factsOf(r).map((f) => f.code).join()}`; // prettier-ignore
		const list = groups.get(key);
		if (list) list.push(r);
		else groups.set(key, [r]);
	}
	for (const list of groups.values())
		for (const range of compress(list.map((r) => r.number!))) {
			const from = list.find((r) => r.number === range.first)!;
			const { itemId, recorded: _r, ...first } = from;
			out.push({ ...first, key: first.mark!, mark: range.count === 1 ? first.mark : null, last: range.last, count: range.count, qty: String(range.count), suggested: suggested(itemId), facts: factsOf(from) }); // prettier-ignore
		}
	return out.sort((a, b) => a.itemName.localeCompare(b.itemName));
}
/** Real places with what lies there, docks first. */
export const placesWithStock = (sql: Db) => sql<{ code: string; name: string; dock: boolean; numbers: number }[]>`
	SELECT p.code, p.name, p.dock, count(b.mark_id)::int AS numbers FROM place p LEFT JOIN balance b ON b.place_id = p.id AND b.qty > 0 AND NOT b.virtual
	WHERE NOT p.virtual GROUP BY p.id ORDER BY NOT p.dock, p.code COLLATE natural_order`;

const moveInput = z.strictObject({
	key: z.uuid(),
	from: z.string().min(1).max(45),
	reason: z.string().trim().max(1000).optional(),
	rows: z
		.array(
			z.strictObject({
				kind: z.enum(['lot', 'serial', 'unmarked']),
				item: z.string().min(1).max(60),
				number: z.string().max(60).nullable(),
				count: z.number().int().min(1).max(MOST),
				lot: z.string().max(60).nullable(),
				qty: z.string().max(40),
				to: z.string().trim().min(1, 'Name a bin.').max(45),
				facts: z.record(z.string().max(30), z.string().max(300)).optional()
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
	const given = parse(moveInput, input);
	const sites = new Set(given.rows.map((r) => r.to.split('/')[0]));
	const movements = given.rows.flatMap((r): NonNullable<EventInput['movements']> => {
		const base = { item: r.item, from: given.from, to: r.to, ...(r.facts ? { facts: r.facts } : {}) };
		if (r.kind !== 'serial') return [{ ...base, lot: r.kind === 'lot' ? r.number : null, qty: r.qty }];
		return expand(r.number!, r.count).map((serial) => ({ ...base, serial, qty: '1' }));
	});
	if (movements.length > MOST) throw new Problem(`That is more than ${MOST.toLocaleString('en')} numbers at once. Put away in parts.`); // prettier-ignore
	const other = [...sites].some((s) => s !== given.from.split('/')[0]);
	return book(sql, actor, {
		key: given.key,
		kind: other ? 'transfer' : 'move',
		at: new Date().toISOString(),
		reason: given.reason || null,
		movements
	});
}
