import { createHash } from 'node:crypto';
import { z } from 'zod';
import { faultFrom, found as finding, sentence } from '../../core/checks/check.ts';
import { noSuch } from '../../core/checks/catalogue.ts';
import { readScan } from '../../core/codes/scan.ts';
import {
	differenceOf,
	layTotal,
	mendsOf,
	proposeLots,
	wantsSecond,
	type Counted,
	type Laid,
	type Mend
} from '../../core/count/count.ts';
import type { Accuracy, CountAnswer, CountPlace, CountRow, CountState, TotalLaid } from '../../core/count/shown.ts';
import { parseDay } from '../../core/dates/dates.ts';
import { group } from '../../core/group/group.ts';
import type { Actor, EventInput } from '../../core/ledger/input.ts';
import { demand } from '../../core/people/can.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { add, amount, exact, isZero, parseQty, total } from '../../core/quantity/quantity.ts';
import { grouped } from '../../core/quantity/sign.ts';
import { id, key, line, number, scanText } from '../../core/text/input.ts';
import { timeIn } from '../../core/time/clock.ts';
import { transaction, type Db, type Sql, type Tx } from '../database/connect.ts';
import { createDocument } from '../document/create.ts';
import { getOrder, type Order } from '../document/orders.ts';
import { bookedUnder, digest } from '../ledger/append.ts';
import { book, checkNow, readEvent, type Booked } from '../ledger/book.ts';
import { marksCalled, unknownNumber } from '../marks/called.ts';
import { parse } from '../parse.ts';
import { openReasons } from '../document/reasons.ts';
import { notify } from '../sheet/live.ts';
import { inThread } from '../work/pool.ts';
import type { CountPaper } from './countpaper.ts';

/** The most numbers that one count asks for. */
const MOST = 20_000;
/** How many rows of a place are shown at once. */
const SHOWN = 300;

/** A count to make, as parsed. */
export const countInput = z.strictObject({
	/** a bin, or a site with all its bins */
	place: line(45, 1, 'Choose where is counted.'),
	/** codes of items; all of them without */
	items: z.array(line(60)).max(200).default([]),
	/** only what was not counted since this day */
	notSince: line(40, 0).default(''),
	/** only so many of them, in a random sample; all of them without */
	sample: z.coerce.number('Give how many are drawn, in digits.').int().min(0).max(MOST).default(0),
	dueOn: line(40, 0).nullish(),
	note: line(200, 0).default('')
});

/**
 * Makes a count: what the ledger has at a place now, of some items, not counted since a day, or some of it in a random sample.
 * @returns its code
 * @throws Problem naming what cannot be counted so
 */
export async function makeCount(sql: Sql, actor: Actor, input: unknown): Promise<string> {
	demand(actor.role, 'count stock');
	const given = parse(countInput, input);
	const since = given.notSince ? parseDay(given.notSince) : null;
	if (since && 'problem' in since) throw new Problem([{ message: since.problem, at: 'notSince' }]);
	const known = await sql<{ code: string }[]>`SELECT code FROM item WHERE code = ANY(${given.items})`;
	const unknown = given.items.filter((c) => !known.some((k) => k.code === c));
	if (unknown.length) throw new Problem(unknown.map((c) => faultFrom(noSuch, { what: 'item', code: c }, 'items')));
	const { place, dueOn, note } = given;
	return createDocument(sql, actor.name, { kind: 'count', place, dueOn, note, lines: [] }, async (tx, order) => {
		const listed = await tx`
			INSERT INTO count_list (order_id, place_id, mark_id) SELECT ${order}::bigint, b.place_id, b.mark_id
			FROM balance b JOIN place p ON p.id = b.place_id AND NOT p.transit JOIN mark k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id
			WHERE b.qty > 0 AND NOT b.virtual AND coalesce(p.site_id, p.id) = (SELECT coalesce(s.site_id, s.id) FROM place s WHERE s.code = ${place}) AND (p.code = ${place} OR p.site_id = (SELECT s.id FROM place s WHERE s.code = ${place}))
				AND (${given.items.length === 0} OR i.code = ANY(${given.items}))
				AND (${since ? since.day : null}::date IS NULL OR NOT EXISTS (SELECT 1 FROM counted c WHERE c.mark_id = b.mark_id AND c.place_id = b.place_id AND shown_day(c.at)::date >= ${since ? since.day : null}::date))
			ORDER BY ${given.sample ? tx`random()` : tx`b.place_id, b.mark_id`} LIMIT ${given.sample || MOST + 1}`;
		if (listed.count > MOST)
			throw new Problem(
				`More than ${grouped(MOST)} numbers lie there. Make a count for each of its bins, or draw some by chance.`
			);
		// An empty bin may be counted: something may lie there that no book has.
		if (!listed.count && (given.items.length || since || given.sample || !place.includes('/')))
			throw new Problem('The ledger has nothing there that is to be counted so. Choose another place, or ask less.');
	});
}

interface Row {
	placeId: string;
	place: string;
	mark: string | null;
	kind: CountRow['kind'];
	number: string;
	lot: string | null;
	itemId: string;
	item: string;
	itemName: string;
	unit: string;
	decimals: number;
	expiresOn: string | null;
	listed: boolean;
	entry: string | null;
	expected: string | null;
	counted: string | null;
	evidence: 'scanned' | 'entered' | null;
	by: string | null;
	at: Date | null;
	before: string | null;
	stands: string | null;
}
const rowsOf = (sql: Db, order: string) => sql<Row[]>`
	SELECT p.id AS "placeId", p.code AS place, r.mark_id AS mark, CASE WHEN k.id IS NOT NULL THEN k.kind WHEN i.tracking LIKE '%serial' THEN 'serial' ELSE 'lot' END AS kind,
		coalesce(k.number, r.number, i.code) AS number, k.of_lot AS lot, i.id AS "itemId", i.code AS item, i.name AS "itemName", i.unit, i.decimals, k.expires_on AS "expiresOn", r.listed, r.entry_id AS entry,
		trim_scale(r.expected)::text AS expected, trim_scale(r.counted)::text AS counted, r.evidence, coalesce(n.name, r.made_by) AS by, r.at, coalesce(b.name, r.before_by) AS before,
		CASE WHEN k.kind = 'serial' THEN (SELECT q.code FROM balance s JOIN place q ON q.id = s.place_id WHERE s.mark_id = k.id AND s.qty > 0 AND NOT s.virtual LIMIT 1) END AS stands
	FROM count_rows(${order}) r JOIN place p ON p.id = r.place_id LEFT JOIN mark_now k ON k.id = r.mark_id JOIN item i ON i.id = coalesce(k.item_id, r.item_id)
	LEFT JOIN person n ON n.login = r.made_by LEFT JOIN person b ON b.login = r.before_by
	ORDER BY p.code COLLATE natural_order, i.name, k.of_lot COLLATE natural_order, coalesce(k.number, r.number) COLLATE natural_order`;
const keyOf = (r: Pick<Row, 'place' | 'mark' | 'item' | 'number'>) => `${r.place} ${r.mark ?? `${r.item} ${r.number}`}`;
const isCounted = (r: Row): r is Row & { counted: string; expected: string } => r.counted !== null;
/** What a row of a serial is called in the computation: a number that nobody knows stands for itself. */
const asCounted = (r: Row & { counted: string; expected: string }): Counted & { row: Row } => ({
	...{ mark: r.mark ?? keyOf(r), kind: r.kind, place: r.place, expected: r.expected, counted: r.counted, row: r }
});
const signed = (r: Row & { counted: string; expected: string }) => {
	const d = differenceOf(r);
	return d.n === 0n ? '0' : d.s < 0n ? `-${exact(d.neg())}` : exact(d);
};

interface Whole {
	order: Order;
	rows: Row[];
	mends: Mend[];
	event: Omit<EventInput, 'key' | 'at'> | null;
	stops: Map<string, string[]>;
	limit: string | null;
	missing: string[];
	stamp: string;
}
/** Reads a count, and checks what its button would book. */
async function readCount(sql: Db, order: Order, now: Date): Promise<Whole> {
	const [rows, [{ limit }]] = await Promise.all([
		rowsOf(sql, order.id),
		sql<{ limit: string | null }[]>`SELECT trim_scale(count_limit)::text AS limit FROM firm`
	]);
	const counted = rows.filter(isCounted);
	const mends = mendsOf(
		counted.map(asCounted),
		new Map(rows.flatMap((r) => (r.mark && r.stands ? [[r.mark, r.stands] as const] : [])))
	);
	const event = mends.length
		? {
				...{ kind: 'count', document: order.code, order: order.id, reason: order.note || 'Counted' },
				movements: mends.map((m) => {
					const { row } = m.of as ReturnType<typeof asCounted>;
					const number = row.kind === 'serial' ? { serial: row.number } : { lot: row.number };
					return {
						...{ item: row.item, qty: m.qty, from: m.from, to: m.to, evidence: row.evidence },
						...(row.mark ? { mark: row.mark } : number)
					};
				})
			}
		: null;
	const stops = new Map<string, string[]>();
	const stop = (r: Row, said: string) => void stops.set(keyOf(r), [...(stops.get(keyOf(r)) ?? []), said]);
	if (event && !order.closedAt) await checkMends(sql, event, mends, now, stop);
	const second = counted.filter((r) => wantsSecond(r, limit) && !r.before);
	for (const r of second)
		stop(
			r,
			`${r.number} at ${r.place} differs by more than ${limit} % of what was expected: another person counts it again.`
		);
	const missing = [...stops.values()].flat();
	const stamp = createHash('sha256')
		.update(JSON.stringify([event, counted.map((r) => r.entry), missing]))
		.digest('base64url');
	return { order, rows, mends, event, stops, limit, missing, stamp };
}
/** Holds what would be booked against the ledger's checks; what stops it is said at its row. */
async function checkMends(
	sql: Db,
	event: Omit<EventInput, 'key' | 'at'>,
	mends: readonly Mend[],
	now: Date,
	stop: (r: Row, said: string) => void
): Promise<void> {
	const rowAt = (n: number) => ((mends[n] ?? mends[0]).of as ReturnType<typeof asCounted>).row;
	try {
		const { findings } = await checkNow(sql, readEvent({ ...event, key: 'count', at: now.toISOString() }));
		for (const f of findings) if (f.level === 'stop') stop(rowAt(f.line), sentence(f));
	} catch (e) {
		if (!(e instanceof Problem)) throw e;
		for (const f of e.faults) stop(rowAt(Number(/^movements\[(\d+)\]/.exec(f.at ?? '')?.[1] ?? 0)), f.message);
	}
}

/** A count by its code. @throws Problem 404 when there is none */
export async function findCount(sql: Db, code: string): Promise<Order> {
	const order = await getOrder(sql, code);
	if (order?.kind !== 'count')
		throw new Problem(`There is no count ${code.slice(0, 60)}. Look it up in the list.`, 404);
	return order;
}

/**
 * A count as it stands.
 * @param at the place to show; the first that is not counted yet without
 */
export async function countState(sql: Db, code: string, at: string | null, now = new Date()): Promise<CountState> {
	const order = await findCount(sql, code);
	const [{ rows, stops, limit, missing, stamp }, reasons, events] = await Promise.all([
		readCount(sql, order, now),
		openReasons(sql, ['count']),
		sql<{ id: string; kind: string; at: Date; by: string; undone: boolean }[]>`
			SELECT e.id, e.kind, e.at, coalesce(n.name, e.recorded_by) AS by, EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id) AS undone
			FROM event e LEFT JOIN person n ON n.login = e.recorded_by WHERE e.order_id = ${order.id} ORDER BY e.id DESC LIMIT 20`
	]);
	const shown = (r: Row): CountRow => ({
		...{
			key: keyOf(r),
			place: r.place,
			mark: r.mark,
			kind: r.kind,
			number: r.number,
			lot: r.lot,
			item: r.item,
			itemName: r.itemName
		},
		...{
			unit: r.unit,
			decimals: r.decimals,
			expiresOn: r.expiresOn,
			listed: r.listed,
			by: r.by,
			at: r.at && timeIn(order.zone, r.at)
		},
		...(isCounted(r)
			? { expected: r.expected, counted: r.counted, change: signed(r) }
			: { expected: null, counted: null, change: null, by: null, at: null }),
		second: isCounted(r) && r.before ? 'done' : isCounted(r) && wantsSecond(r, limit) ? 'wanted' : null,
		elsewhere: r.kind === 'serial' && isCounted(r) && !isZero(r.counted) && r.stands !== r.place ? r.stands : null,
		stops: stops.get(keyOf(r)) ?? []
	});
	const byPlace = group([...rows], (r) => r.place);
	// A place that was asked for and has nothing by the ledger is there to be counted all the same.
	if (order.place && !byPlace.size) byPlace.set(order.place, []);
	const places = [...byPlace].map(([place, list]): CountPlace => ({
		code: place,
		asked: list.filter((r) => r.listed).length,
		counted: list.filter(isCounted).length,
		differences: list.filter((r) => isCounted(r) && differenceOf(r).n !== 0n).length
	}));
	const here = at && byPlace.has(at) ? at : (places.find((p) => p.counted < p.asked) ?? places[0]).code;
	const list = byPlace.get(here)!.filter((r) => r.listed || isCounted(r));
	const counted = rows.filter(isCounted);
	return {
		...{
			code: order.code,
			place: order.place!,
			note: order.note,
			closedAt: order.closedAt,
			closedShort: order.closedShort,
			zone: order.zone
		},
		...{ places, at: here, more: Math.max(0, list.length - SHOWN) },
		rows: [...list.filter((r) => !isCounted(r)), ...list.filter(isCounted)].slice(0, SHOWN).map(shown),
		differences: counted.filter((r) => differenceOf(r).n !== 0n).map(shown),
		asked: rows.filter((r) => r.listed).length,
		counted: counted.length,
		right: counted.filter((r) => differenceOf(r).n === 0n).length,
		reasons: reasons.map((r) => r.name),
		...{ limit, missing, stamp },
		events: events.map((e) => ({ ...e, at: timeIn(order.zone, e.at) }))
	};
}

/** Something that was counted, as parsed: what was scanned or typed, or a row that was chosen. */
export const entryInput = z.strictObject({
	/** made by the browser, so that sending twice counts it once */
	id: z.uuid(),
	place: line(45),
	text: scanText.optional(),
	mark: id.optional(),
	/** a number that nobody knows, and what it is a number of */
	fresh: z.strictObject({ item: line(60, 1, 'Choose the item.'), number }).optional(),
	/** how much; "+5" is that much more; empty where the code says it, or to be asked */
	qty: z.string().max(40).default(''),
	/** takes what was counted of a row back */
	back: z.literal(true).optional()
});

/**
 * Takes what was counted: the quantity of a lot, a serial that was seen, or a bin whose turn it is. What the ledger says of
 * it at that moment is kept beside it, so that work may go on meanwhile.
 */
export async function takeCount(
	sql: Sql,
	by: string,
	code: string,
	input: unknown,
	now = new Date()
): Promise<CountAnswer> {
	const given = parse(entryInput, input);
	const order = await findCount(sql, code);
	const answer = (taken: boolean, said: string, more: Partial<CountAnswer> = {}): CountAnswer => ({
		id: given.id,
		taken,
		said,
		...more
	});
	if (order.closedAt) return answer(false, `${order.code} is closed since ${order.closedAt}. Make another count.`);
	const place = await placeOf(sql, order, given.place);
	if (!place) return answer(false, `${given.place} is no place of ${order.place}, where ${order.code} counts.`);
	if (given.fresh) return takeFresh(sql, by, order, place, { ...given, fresh: given.fresh });
	let qty = given.qty.trim();
	let mark = given.mark ?? null;
	let scanned = false;
	if (!mark) {
		const scan = readScan(given.text ?? '', new Date().getFullYear());
		if ('problem' in scan) return answer(false, scan.problem);
		const text = scan.text.trim();
		const bin = scan.coded ? null : await placeOf(sql, order, text);
		if (bin) return answer(true, `At ${bin.code}`, { place: bin.code });
		const called = scan.serial ?? scan.lot ?? (scan.coded ? '' : text);
		const marks = await meant(sql, order, place.id, called, scan.gtin ?? null);
		if (!marks.length)
			return answer(
				false,
				called
					? await unknownNumber(sql, called)
					: 'The code names no number. Choose its row, and type how much there is.',
				called ? { unknown: called } : {}
			);
		if (marks.length > 1 && !marks[0].here)
			return answer(
				false,
				`${marks.map((m) => m.itemName).join(' and ')} each have a ${called}, and neither is expected here. Scan its label with the item’s code.`
			);
		mark = marks[0].id;
		qty ||= scan.qty ?? (scan.weight && marks[0].unit === 'kg' ? scan.weight : '');
		scanned = true;
	}
	const [m] = await sql<
		{
			kind: CountRow['kind'];
			number: string;
			itemName: string;
			unit: string;
			decimals: number;
			before: string | null;
		}[]
	>`
		SELECT k.kind, coalesce(k.number, i.code) AS number, i.name AS "itemName", i.unit, i.decimals,
			(SELECT trim_scale(e.counted)::text FROM count_entry e WHERE e.order_id = ${order.id} AND e.place_id = ${place.id} AND e.mark_id = k.id ORDER BY e.id DESC LIMIT 1) AS before
		FROM mark k JOIN item i ON i.id = k.item_id WHERE k.id = ${mark}`;
	if (!m) return answer(false, 'This row is not there any more. Reload the page.');
	const what = m.kind === 'unmarked' ? m.itemName : m.number;
	if (given.back) {
		await enter(sql, by, order, place.id, { id: given.id, mark, counted: null, scanned, at: now });
		return answer(true, `${what} is not counted any more`);
	}
	if (m.kind === 'serial' && !qty) qty = '1';
	if (!qty) {
		const { number: no, itemName, unit, before } = m;
		return answer(true, `How much of ${what}?`, { ask: { mark, number: no, itemName, unit, before } });
	}
	const more = qty.startsWith('+');
	const typed = more ? qty.slice(1) : qty;
	const read = isZero(/^\d+(\.\d+)?$/.test(typed) ? typed : '1') ? { qty: '0' } : parseQty(typed, m.decimals, m.unit);
	if ('problem' in read) return answer(false, read.problem);
	const counted = more ? add(m.before ?? '0', read.qty) : read.qty;
	if (m.kind === 'serial' && counted !== '0' && counted !== '1')
		return answer(false, `${what} is one piece. Count each serial by itself.`);
	const fault = await mayCount(sql, by, order, place.id, mark);
	if (fault) return answer(false, fault);
	await enter(sql, by, order, place.id, { id: given.id, mark, counted, scanned, at: now });
	return answer(
		true,
		counted === '0' ? `${what}: not there` : m.kind === 'serial' ? what : `${what}: ${amount(counted, m.unit)}`
	);
}

/** A place that a count may stand at: its own, or a bin of its site. */
async function placeOf(sql: Db, order: Order, code: string): Promise<{ id: string; code: string } | null> {
	const [found] = await sql<{ id: string; code: string }[]>`
		SELECT p.id, p.code FROM place p JOIN place o ON o.code = ${order.place} WHERE lower(p.code) = lower(${code}) AND NOT p.virtual AND NOT p.transit
			AND (p.id = o.id OR p.site_id = o.id)`;
	return found ?? null;
}
/** What a number means here: first what is expected at the place, then whatever else goes by it. */
async function meant(sql: Db, order: Order, place: string, called: string, gtin: string | null) {
	const named = called ? (await marksCalled(sql, called, gtin)).map((m) => m.id) : [];
	return sql<{ id: string; itemName: string; unit: string; here: boolean }[]>`
		SELECT k.id, i.name AS "itemName", i.unit, EXISTS (SELECT 1 FROM count_list l WHERE l.order_id = ${order.id} AND l.place_id = ${place} AND l.mark_id = k.id) AS here
		FROM mark k JOIN item i ON i.id = k.item_id
		-- One of an item without numbers is named by its item.
		WHERE k.id = ANY(${named}::bigint[]) OR k.kind = 'unmarked' AND (i.gtin = ${gtin} OR i.code = ${called}) AND ${named.length === 0}
		ORDER BY 4 DESC, k.id DESC LIMIT 5`;
}
/** Why this person may not count it: whoever counted it first does not count it again. */
async function mayCount(sql: Db, by: string, order: Order, place: string, mark: string): Promise<string | null> {
	const [last] = await sql<{ before: string | null }[]>`
		SELECT r.before_by AS before FROM count_rows(${order.id}) r WHERE r.place_id = ${place} AND r.mark_id = ${mark} AND r.counted IS NOT NULL`;
	return last?.before === by
		? 'You counted it before, and somebody else counted it since. That stands; a third person may count it once more.'
		: null;
}
/** Adds what was counted, with what the ledger says at this moment. */
async function enter(
	sql: Db,
	by: string,
	order: Order,
	place: string,
	row: { id: string; mark: string; counted: string | null; scanned: boolean; at: Date }
): Promise<void> {
	await sql`
		INSERT INTO count_entry (key, order_id, place_id, mark_id, expected, counted, evidence, made_by, at)
		SELECT ${row.id}, ${order.id}::bigint, ${place}::bigint, ${row.mark}::bigint, coalesce((SELECT b.qty FROM balance b WHERE b.mark_id = ${row.mark} AND b.place_id = ${place}), 0), ${row.counted}::numeric,
			${row.scanned ? 'scanned' : 'entered'}, ${by}, ${row.at}::timestamptz ON CONFLICT (key) DO NOTHING`;
	await notify(sql, order.code);
}
/** Takes a number that nobody knows: it comes into the books with the count. */
async function takeFresh(
	sql: Sql,
	by: string,
	order: Order,
	place: { id: string; code: string },
	given: { id: string; qty: string; fresh: { item: string; number: string }; back?: true }
): Promise<CountAnswer> {
	const answer = (taken: boolean, said: string): CountAnswer => ({ id: given.id, taken, said });
	const [item] = await sql<{ id: string; tracking: string; unit: string; decimals: number }[]>`
		SELECT id, tracking, unit, decimals FROM item WHERE code = ${given.fresh.item}`;
	if (!item)
		return answer(
			false,
			sentence(finding(noSuch, { what: 'item', code: given.fresh.item }, { line: -1, about: null }))
		);
	const { tracking } = item;
	if (tracking === 'none')
		return answer(false, `${given.fresh.item} carries no number. Choose its row, and type how much there is.`);
	const serial = tracking.includes('serial');
	const read = parseQty(given.qty.trim() || (serial ? '1' : ''), item.decimals, item.unit);
	if (!given.back && 'problem' in read) return answer(false, read.problem);
	const counted = given.back || 'problem' in read ? null : read.qty;
	if (serial && counted !== null && counted !== '1')
		return answer(false, `${given.fresh.number} is one piece. Count each serial by itself.`);
	const known = await sql`SELECT 1 FROM mark WHERE item_id = ${item.id} AND number = ${given.fresh.number}`;
	if (known.length && !given.back) return answer(false, `${given.fresh.number} is known. Scan it again.`);
	await sql`
		INSERT INTO count_entry (key, order_id, place_id, item_id, number, expected, counted, evidence, made_by)
		VALUES (${given.id}, ${order.id}, ${place.id}, ${item.id}, ${given.fresh.number}, 0, ${counted}, 'entered', ${by}) ON CONFLICT (key) DO NOTHING`;
	await notify(sql, order.code);
	return answer(
		true,
		counted === null
			? `${given.fresh.number} is not counted any more`
			: `${given.fresh.number}: ${amount(counted, item.unit)}, in no book yet`
	);
}

/** Everything at a place that was not counted is not there, as parsed. */
export const restInput = z.strictObject({ place: line(45) });
/** Says of everything at a place that was asked for and not counted that it is not there. @returns how many */
export async function restNotThere(sql: Sql, by: string, code: string, input: unknown): Promise<number> {
	const given = parse(restInput, input);
	const order = await findOpen(sql, code);
	const place = await placeOf(sql, order, given.place);
	if (!place) throw new Problem(`${given.place} is no place of ${order.place}, where ${order.code} counts.`);
	const added = await sql`
		INSERT INTO count_entry (key, order_id, place_id, mark_id, expected, counted, evidence, made_by)
		SELECT gen_random_uuid()::text, ${order.id}::bigint, r.place_id, r.mark_id, coalesce(b.qty, 0), 0, 'entered', ${by}::text FROM count_rows(${order.id}) r
		LEFT JOIN balance b ON b.mark_id = r.mark_id AND b.place_id = r.place_id WHERE r.place_id = ${place.id} AND r.listed AND r.counted IS NULL`;
	await notify(sql, order.code);
	return added.count;
}
async function findOpen(sql: Db, code: string): Promise<Order> {
	const order = await findCount(sql, code);
	if (order.closedAt) throw new Problem(`${order.code} is closed since ${order.closedAt}. Make another count.`, 409);
	return order;
}

/** A total of an item at a place, as parsed; without what is laid on each lot it is only proposed. */
export const totalInput = z.strictObject({
	place: line(45),
	item: line(60),
	total: z.string().max(40),
	laid: z
		.array(
			z.strictObject({
				mark: id,
				change: z.string().regex(/^-?\d{1,12}(\.\d{1,6})?$/, 'Type a quantity, with − where it is less.')
			})
		)
		.max(2000)
		.optional()
});
/**
 * Lays a total that was counted of an item on its lots: as proposed, or as a person says it, which must add up.
 * @throws Problem when it does not, or the item has nothing there
 */
export async function countTotal(sql: Sql, by: string, code: string, input: unknown): Promise<TotalLaid> {
	const given = parse(totalInput, input);
	const order = await findOpen(sql, code);
	const place = await placeOf(sql, order, given.place);
	const [item] = await sql<{ id: string; unit: string; decimals: number; tracking: string }[]>`
		SELECT id, unit, decimals, tracking FROM item WHERE code = ${given.item}`;
	if (!place || !item) throw new Problem('This item is not counted here. Reload the page.', 404);
	const { tracking } = item;
	if (tracking !== 'lot')
		throw new Problem(`Of ${given.item} each ${tracking === 'none' ? 'quantity' : 'serial'} is counted by itself.`);
	const typed = given.total.trim();
	const read = /^0+$/.test(typed) ? { qty: '0' } : parseQty(typed, item.decimals, item.unit);
	if ('problem' in read) throw new Problem([{ message: read.problem, at: 'total' }]);
	return transaction(sql, async (tx) => {
		const lots = await tx<{ mark: string; number: string; expected: string }[]>`
			SELECT k.id AS mark, k.number, trim_scale(b.qty)::text AS expected FROM balance b JOIN mark_now k ON k.id = b.mark_id AND k.item_id = ${item.id} AND k.kind = 'lot'
			WHERE b.place_id = ${place.id} AND b.qty > 0 ORDER BY k.expires_on NULLS LAST, k.event_id, k.number COLLATE natural_order`;
		if (!lots.length)
			throw new Problem(`The ledger has no lot of ${given.item} at ${place.code}. Scan the lot that lies there.`);
		const laid: Laid[] = given.laid ?? proposeLots(read.qty, lots);
		const change = new Map(laid.map((l) => [l.mark, l.change]));
		const answer = {
			expected: total(lots.map((l) => l.expected)),
			lots: lots.map((l) => ({ ...l, change: change.get(l.mark) ?? '0' })),
			entered: false
		};
		if (!given.laid) return answer;
		const done = layTotal(read.qty, lots, laid);
		if ('problem' in done) throw new Problem(done.problem);
		const { counted } = done;
		await tx`INSERT INTO count_entry (key, order_id, place_id, mark_id, expected, counted, evidence, made_by)
			SELECT gen_random_uuid()::text, ${order.id}::bigint, ${place.id}::bigint, n.mark, n.expected, n.counted, 'entered', ${by}::text
			FROM unnest(${counted.map((c) => c.mark)}::bigint[], ${counted.map((c) => c.expected)}::numeric[], ${counted.map((c) => c.counted)}::numeric[]) n(mark, expected, counted)`;
		await notify(tx, order.code);
		return { ...answer, entered: true };
	});
}

/** A press of the button, as parsed. */
export const bookCountInput = z.strictObject({
	key,
	stamp: z.string().max(100),
	/** why, for each difference by the key of its row */
	reasons: z.record(z.string().max(200), line(100)).default({})
});
/**
 * Books what was counted: one event with a movement for each difference, each with its reason; what was as expected is kept
 * beside it. What was not counted stays as it is.
 * @returns the event; null where nothing differs
 * @throws Problem 409 when something was counted meanwhile, 422 naming what stops it
 */
export async function bookCount(
	sql: Sql,
	actor: Actor,
	code: string,
	input: unknown,
	now = new Date()
): Promise<Booked | null> {
	demand(actor.role, 'adjust stock');
	const given = parse(bookCountInput, input);
	const { key: under, ...rest } = given;
	const request = { count: code, ...rest };
	const known = await bookedUnder(sql, under, digest(request));
	if (known) return known;
	const whole = await readCount(sql, await findOpen(sql, code), now);
	const { order, event, missing, stamp } = whole;
	const changed =
		'Something was counted or booked while you looked at it. The page shows what there is; look at it and press again.';
	if (stamp !== given.stamp) throw new Problem(changed, 409);
	const counted = whole.rows.filter(isCounted);
	if (!counted.length) throw new Problem('Nothing is counted yet. Scan the first number.');
	if (missing.length) throw new Problem(missing.slice(0, 50).map((message): Fault => ({ message, level: 'stop' })));
	const names = new Set((await openReasons(sql, ['count'])).map((r) => r.name));
	const without = counted.filter((r) => differenceOf(r).n !== 0n && !names.has(given.reasons[keyOf(r)] ?? ''));
	if (without.length)
		throw new Problem(
			without.slice(0, 50).map((r): Fault => ({
				message: `${r.number} at ${r.place}: choose why it is ${signed(r)}.`,
				at: keyOf(r),
				level: 'reason'
			}))
		);
	const keep = (tx: Tx) => keepCounted(tx, order, counted, given.reasons, now);
	const unchanged = async (tx: Tx) => {
		await tx`SELECT 1 FROM orders WHERE id = ${order.id} FOR UPDATE`;
		const again = await readCount(tx, await findOpen(tx, code), now);
		if (again.stamp !== given.stamp) throw new Problem(changed, 409);
	};
	if (!event) {
		await transaction(sql, async (tx) => {
			await unchanged(tx);
			await keep(tx);
		});
		return null;
	}
	return book(sql, actor, { ...event, key: under, at: now.toISOString() }, { request, before: unchanged, after: keep });
}
/** Keeps what was counted, right or wrong, and closes the count. */
async function keepCounted(
	tx: Tx,
	order: Order,
	rows: readonly (Row & { counted: string; expected: string })[],
	reasons: Record<string, string>,
	now: Date
): Promise<void> {
	await tx`
		INSERT INTO counted (order_id, place_id, mark_id, expected, counted, counted_by, before_by, at, reason_id)
		SELECT ${order.id}::bigint, n.place, coalesce(n.mark, k.id), e.expected, e.counted, e.made_by, b.made_by, e.at, a.id
		FROM unnest(${rows.map((r) => r.placeId)}::bigint[], ${rows.map((r) => r.mark)}::bigint[], ${rows.map((r) => r.itemId)}::bigint[], ${rows.map((r) => r.number)}::text[], ${rows.map((r) => r.entry)}::bigint[],
			${rows.map((r) => (differenceOf(r).n === 0n ? null : reasons[keyOf(r)]))}::text[]) n(place, mark, item, number, entry, reason)
		JOIN count_entry e ON e.id = n.entry LEFT JOIN mark k ON n.mark IS NULL AND k.item_id = n.item AND k.number = n.number LEFT JOIN reason a ON a.name = n.reason
		LEFT JOIN LATERAL (SELECT x.made_by FROM count_entry x WHERE x.order_id = e.order_id AND x.place_id = e.place_id AND x.mark_id = e.mark_id AND x.id < e.id AND x.counted IS NOT NULL AND x.made_by <> e.made_by ORDER BY x.id DESC LIMIT 1) b ON true`;
	await tx`UPDATE orders SET closed_at = ${now} WHERE id = ${order.id} AND closed_at IS NULL`;
	await notify(tx, order.code);
}

/** The accuracy of counts over time: lines right of lines counted, for each month, the latest first; two years of it. */
export const accuracy = (sql: Db) => sql<Accuracy[]>`
	SELECT to_char(c.at AT TIME ZONE f.zone, 'YYYY-MM') AS month, count(DISTINCT c.order_id)::int AS counts, count(*)::int AS lines, (count(*) FILTER (WHERE c.counted = c.expected))::int AS right
	FROM firm f CROSS JOIN counted c GROUP BY 1 ORDER BY 1 DESC LIMIT 24`;

/** The most lines that are printed. */
const MOST_PRINTED = 2_000;
/**
 * Sheets to count by, as a PDF: by place and number, each place on its own.
 * @param expected true with what the ledger has now; otherwise whoever counts does not know
 * @throws Problem 422 when nobody would count that much on paper
 */
export async function countSheets(sql: Sql, code: string, expected: boolean, now = new Date()): Promise<Uint8Array> {
	const order = await findCount(sql, code);
	const rows = await sql<CountPaper['rows']>`
		SELECT p.code AS place, k.kind, coalesce(k.number, i.code) AS number, k.of_lot AS lot, i.code AS item, i.name AS "itemName", i.unit, k.expires_on AS "expiresOn",
			CASE WHEN ${expected} THEN coalesce(trim_scale(b.qty), 0)::text END AS expected
		FROM count_list l JOIN place p ON p.id = l.place_id JOIN mark_now k ON k.id = l.mark_id JOIN item i ON i.id = k.item_id LEFT JOIN balance b ON b.mark_id = l.mark_id AND b.place_id = l.place_id
		WHERE l.order_id = ${order.id} ORDER BY p.code COLLATE natural_order, i.name, k.of_lot COLLATE natural_order, k.number COLLATE natural_order LIMIT ${MOST_PRINTED + 1}`;
	if (rows.length > MOST_PRINTED)
		throw new Problem(
			`More than ${grouped(MOST_PRINTED)} numbers are to be counted, which is what goes on paper. Count by scanning, or make a count for each bin.`
		);
	if (!rows.length) throw new Problem(`Nothing is asked for on ${order.code}: there is nothing to print.`);
	return inThread('counting', {
		code: order.code,
		place: order.place!,
		note: order.note,
		on: timeIn(order.zone, now),
		rows: [...rows]
	});
}
