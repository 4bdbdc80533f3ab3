import { z } from 'zod';
import { transaction, type Db, type Sql, type Tx } from '../database/connect.ts';
import { allocate, type Terms } from '../../core/allocation/allocate.ts';
import { subjectOf, type About } from '../../core/checks/check.ts';
import { youngestFirst, type Overtaken } from '../../core/allocation/promises.ts';
import { promisedAway } from '../../core/checks/catalogue.ts';
import { parseDay, showDay, showWhen } from '../../core/dates/dates.ts';
import { documentKind } from '../../core/document/kinds.ts';
import { group } from '../../core/group/group.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { demand } from '../../core/people/can.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { amount, less, parseQty, rest, sub, total, type Qty } from '../../core/quantity/quantity.ts';
import type { LinePromise } from '../../core/sheet/sheet.ts';
import { id, key, line, number, quantity, text } from '../../core/text/input.ts';
import { dayIn, timeIn } from '../../core/time/clock.ts';
import { getOrder, type Order, type OrderLine } from './orders.ts';
import { digest } from '../ledger/append.ts';
import { onHand, type OnHand } from '../marks/onhand.ts';
import { termsFor } from '../marks/terms.ts';
import { parse } from '../parse.ts';
import { notify } from '../sheet/live.ts';

/** What a program promises, as parsed. */
export const promiseInput = z.strictObject({
	key,
	/** code of the order, and the number of its line */
	order: line(60, 1, 'Name the order.'),
	line: z.union(
		[
			z.number().int().positive(),
			z
				.string()
				.regex(/^[1-9]\d{0,5}$/)
				.transform(Number)
		],
		'Give the number of the line: 1, 2, …'
	),
	item: line(60, 1, 'Name the item.'),
	lot: number.nullish(),
	serial: number.nullish(),
	qty: quantity.default('1'),
	/** its last day */
	until: line(40).nullish(),
	/** why it is taken over, where it is promised to another order */
	reason: text(1000, 0).nullish()
});
/** What a screen promises to a line, as parsed. */
export const promisesInput = z.strictObject({
	key,
	/** id of the line */
	line: id,
	picks: z
		.array(z.strictObject({ mark: id, qty: quantity }))
		.min(1, 'Nothing is chosen yet. Choose what is to be promised.')
		.max(20_000),
	until: line(40, 0).nullish(),
	reason: text(1000, 0).nullish()
});

/** One promise as it was made. */
export interface PromiseMade {
	id: string;
	mark: string;
	qty: Qty;
}

/** Promises one lot quantity or serial, as a program names it. @throws Problem with the reason; nothing is promised then */
export async function makePromise(sql: Sql, actor: Actor, input: unknown, now = new Date()) {
	const given = parse(promiseInput, input);
	const [order, [mark]] = await Promise.all([
		getOrder(sql, given.order),
		sql<{ id: string; item: string }[]>`
			SELECT k.id, i.code AS item FROM item i JOIN mark k ON k.item_id = i.id AND ${given.serial ? sql`k.kind = 'serial' AND k.serial_no = ${given.serial}` : sql`k.kind = 'lot' AND k.lot_no = ${given.lot ?? ''}`} WHERE i.code = ${given.item}`
	]);
	const refuse = (message: string, at: string) => new Problem([{ message, at, code: 'promise', level: 'stop' }]);
	if (!order) throw refuse(`There is no order ${given.order}. Look it up in the list.`, 'order');
	const of = order.lines.find((l) => l.no === given.line);
	if (!of) throw refuse(`${order.code} has no line ${given.line}. It has ${order.lines.length}.`, 'line');
	if (of.item !== given.item)
		throw refuse(`Line ${of.no} of ${order.code} is ${of.item}, not ${given.item}. Name the line of the item.`, 'item');
	if (!given.lot && !given.serial) throw refuse('Name the lot or the serial that is promised.', 'lot');
	if (!mark)
		throw refuse(
			`${given.serial ?? given.lot} of ${given.item} is not known. Check the number, or look it up in the register.`,
			given.serial ? 'serial' : 'lot'
		);
	const [made] = await promise(sql, actor, order, of, { ...given, picks: [{ mark: mark.id, qty: given.qty }] }, now);
	return {
		id: made.id,
		order: order.code,
		line: of.no,
		item: of.item,
		lot: given.lot ?? null,
		serial: given.serial ?? null,
		qty: made.qty
	};
}

/** A promise that is open. */
export interface OpenPromise {
	id: string;
	order: string | null;
	line: number | null;
	item: string;
	number: string;
	qty: Qty;
	/** what has not gone yet */
	rest: Qty;
	until: string | null;
}
/** Promises that are open, in the order they were made, from one on. */
export const readPromises = (sql: Db, after: string, count: number) => sql<OpenPromise[]>`
	SELECT n.id, n.order_code AS order, l.no AS line, i.code AS item, k.number, trim_scale(p.qty)::text AS qty, trim_scale(n.rest)::text AS rest, n.until::text AS until
	FROM promise_now n JOIN promise p ON p.id = n.id JOIN mark k ON k.id = n.mark_id JOIN item i ON i.id = k.item_id LEFT JOIN order_line l ON l.id = n.order_line_id
	WHERE n.id > ${after}::bigint ORDER BY n.id LIMIT ${count}`;

/** Promises what is suggested or chosen to a line. @throws Problem naming each that cannot be; nothing is promised then */
export async function makePromises(
	sql: Sql,
	actor: Actor,
	order: Order,
	input: unknown,
	now = new Date()
): Promise<PromiseMade[]> {
	const given = parse(promisesInput, input);
	const of = order.lines.find((l) => l.id === given.line);
	if (!of) throw new Problem('This line is not there any more. Reload the page.', 404);
	return promise(sql, actor, order, of, given, now);
}

interface Given {
	key: string;
	picks: readonly { mark: string; qty: string }[];
	until?: string | null;
	reason?: string | null;
}
/** Does a line take from stock? Only to such a one anything can be promised. */
export const takesStock = (l: OrderLine) =>
	['shipment', 'job use', 'production use', 'repack'].includes(l.step) && l.role !== 'output';

async function promise(
	sql: Sql,
	actor: Actor,
	order: Order,
	of: OrderLine,
	given: Given,
	now: Date
): Promise<PromiseMade[]> {
	demand(actor.role, documentKind(order.kind).right);
	const refuse = (message: string, at = '') => new Problem([{ message, at, code: 'promise', level: 'stop' }]);
	if (!takesStock(of))
		throw refuse(`Line ${of.no} of ${order.code} takes nothing from stock: nothing can be promised to it.`, 'line');
	const until = given.until ? readUntil(given.until, order, now) : null;
	const request = digest({ order: order.code, line: of.id, ...given, picks: given.picks });
	return transaction(sql, async (tx) => {
		await tx`SELECT pg_advisory_xact_lock(hashtextextended(${given.key}, 10))`;
		const known = await tx<(PromiseMade & { request: string })[]>`
			SELECT id, mark_id AS mark, trim_scale(qty)::text AS qty, request FROM promise WHERE key = ${given.key} ORDER BY id`;
		if (known.length && known[0].request !== request)
			throw new Problem(
				[
					{
						message: `The key ${given.key} stands for another promise already. Give each request a key of its own.`,
						at: 'key',
						code: 'key'
					}
				],
				409
			);
		if (known.length) return known.map(({ id: made, mark, qty }) => ({ id: made, mark, qty }));
		return promiseWithin(tx, actor, order, of, { ...given, until, request }, now);
	});
}

/** Promises within a transaction. @param given `until`: a day; `request`: what a request of the same key is told apart by */
async function promiseWithin(
	tx: Tx,
	actor: Actor,
	order: Order,
	of: OrderLine,
	given: Given & { request: string },
	now: Date
): Promise<PromiseMade[]> {
	// In the order in which bookings hold them: two that want the same wait here, and the second sees what the first was promised.
	const [{ closed }] = await tx<
		{ closed: boolean }[]
	>`SELECT closed_at IS NOT NULL AS closed FROM orders WHERE id = ${order.id} FOR UPDATE`;
	if (closed)
		throw new Problem([
			{
				message: `${order.code} is complete. Promise it to another order.`,
				at: 'order',
				code: 'promise',
				level: 'stop'
			}
		]);
	const marks = [...new Set(given.picks.map((p) => p.mark))];
	await tx`SELECT lock_marks(${marks}::bigint[], NULL, true)`;
	const wanted = await checkWanted(tx, order, of, given, now);
	const others = await takeOver(tx, actor, order, given, wanted);
	// One of the same that had run out, or was taken over whole, has served its time.
	await tx`UPDATE promise SET released_at = now(), released_by = ${actor.name} WHERE order_line_id = ${of.id} AND mark_id = ANY(${marks}::bigint[]) AND released_at IS NULL`;
	const made = await tx<PromiseMade[]>`
		INSERT INTO promise (key, request, order_line_id, mark_id, qty, until, reason, since, made_by)
		SELECT ${given.key}, ${given.request}, ${of.id}, w.mark, w.qty, ${given.until ?? null}::date, ${given.reason || null}, (SELECT coalesce(max(id), 0) FROM event), ${actor.name}
		FROM unnest(${wanted.map((w) => w.mark)}::bigint[], ${wanted.map((w) => w.qty)}::numeric[]) WITH ORDINALITY w(mark, qty, n) ORDER BY w.n
		RETURNING id, mark_id AS mark, trim_scale(qty)::text AS qty`;
	for (const code of new Set([order.code, ...others])) await notify(tx, code);
	return [...made];
}

/**
 * What is promised of one number to a line is promised of another instead, until the same day; nothing where nothing is.
 * @throws Problem when the other cannot be promised
 */
export async function promiseInstead(
	tx: Tx,
	actor: Actor,
	order: Order,
	of: OrderLine,
	swap: { key: string; from: string; to: string; reason: string | null },
	now: Date
): Promise<void> {
	const [held] = await tx<{ id: string; qty: Qty; until: string | null }[]>`
		SELECT n.id, trim_scale(n.rest)::text AS qty, n.until::text AS until FROM promise_now n WHERE n.order_line_id = ${of.id} AND n.mark_id = ${swap.from}`;
	if (!held) return;
	await tx`UPDATE promise SET released_at = now(), released_by = ${actor.name} WHERE id = ${held.id}`;
	const { key: under, to, reason } = swap;
	const given = { key: under, picks: [{ mark: to, qty: held.qty }], until: held.until, reason };
	await promiseWithin(tx, actor, order, of, { ...given, request: digest(given) }, now);
}

function readUntil(typed: string, order: Order, now: Date): string {
	const read = parseDay(typed);
	const fault = (message: string) => new Problem([{ message, at: 'until', code: 'date', level: 'stop' }]);
	if ('problem' in read) throw fault(read.problem);
	const today = dayIn(order.zone, now);
	if (read.day < today)
		throw fault(`${showDay(read.day)} has passed. Give the last day that it is to be kept for, or none.`);
	return read.day;
}

interface Wanted {
	mark: string;
	qty: Qty;
	/** how much of it is promised to others, of which promises */
	over: Overtaken[];
}
/** Holds what is to be promised against what is there. @throws Problem naming each that cannot be */
async function checkWanted(tx: Tx, order: Order, of: OrderLine, given: Given, now: Date): Promise<Wanted[]> {
	const site = documentKind(order.kind).siteOnly ? (order.place?.split('/')[0] ?? null) : null;
	const [stock, terms, open] = await Promise.all([
		onHand(tx, [of.itemId], order.id),
		termsFor(tx, [of.itemId], {
			place: site,
			customer: order.partner,
			purpose: of.step === 'shipment' ? 'shipment' : 'use'
		}),
		tx<{ id: string; mark: string; line: string; order: string; own: boolean; qty: Qty }[]>`
			SELECT n.id, n.mark_id AS mark, coalesce(n.order_line_id, 0) AS line, n.to AS order, own_promise(n, ${order.id}, ${order.partner}) AS own, trim_scale(n.rest)::text AS qty
			FROM promise_now n JOIN mark k ON k.id = n.mark_id WHERE k.item_id = ${of.itemId} ORDER BY n.id`
	]);
	const names = new Map(
		(
			await tx<(About & { id: string; item: string })[]>`
		SELECT k.id, k.kind, coalesce(k.number, '') AS number, k.item_id AS item FROM mark k WHERE k.id = ANY(${given.picks.map((p) => p.mark)}::bigint[])`
		).map((m) => [m.id, m])
	);
	const [rows, promises] = [group(stock, (s) => s.mark), group([...open], (p) => p.mark)];
	const mine = new Map(open.flatMap((p) => (p.line === of.id ? [[p.mark, p] as const] : [])));
	const faults: Fault[] = [];
	const tell = (message: string, at: string, level: 'stop' | 'reason' = 'stop') =>
		void faults.push({ message, at, code: 'promise', level });
	const wanted = given.picks.flatMap((p, n): Wanted[] => {
		const at = given.picks.length > 1 ? `picks[${n}]` : 'qty';
		const mark = names.get(p.mark);
		if (!mark || mark.item !== of.itemId || mark.kind === 'unmarked')
			return (tell(`This is no lot or serial of ${of.itemName}. Take another.`, at), []);
		const name = subjectOf([mark]).text;
		const read = parseQty(p.qty, of.decimals, of.unit);
		if ('problem' in read) return (tell(`${name}: ${read.problem}`, at), []);
		const already = mine.get(p.mark);
		if (already)
			return (
				tell(
					`${name}: ${amount(already.qty, of.unit)} are promised to ${order.code}, line ${of.no}, already. Release that first.`,
					at
				),
				[]
			);
		const refused = refusedBy(
			read.qty,
			rows.get(p.mark) ?? [],
			{ ...terms(of.itemId), from: site },
			dayIn(order.zone, now),
			!!given.reason
		);
		if (refused) return (tell(`${name}: ${refused}`, at), []);
		// Beyond what nobody was promised it takes over what others were, the youngest first.
		const others = (promises.get(p.mark) ?? []).filter((x) => !x.own);
		const there = total((rows.get(p.mark) ?? []).map((s) => s.qty));
		const own = total((promises.get(p.mark) ?? []).filter((x) => x.own).map((x) => x.qty));
		const over = youngestFirst(others, rest(total([...others.map((o) => o.qty), own, read.qty]), there));
		if (over.length && !given.reason)
			tell(
				promisedAway.say(subjectOf([mark]), { of: over, unit: of.unit, serial: mark.kind === 'serial' }, 'reason', [
					mark
				]),
				at,
				'reason'
			);
		return [{ mark: p.mark, qty: read.qty, over }];
	});
	const sum = total([...[...mine.values()].map((m) => m.qty), ...wanted.map((w) => w.qty)]);
	if (less(rest(of.qty, of.done), sum))
		tell(
			`Line ${of.no} of ${order.code} needs ${amount(rest(of.qty, of.done), of.unit)} more; ${amount(sum, of.unit)} would be promised to it. Promise less.`,
			'qty'
		);
	if (faults.length) throw new Problem(faults.slice(0, 200));
	return wanted;
}

/** Why so much of a mark cannot be promised, with the way out; null where it can. What is only promised to others is another matter. */
function refusedBy(need: Qty, rows: readonly OnHand[], terms: Terms, today: string, reason: boolean): string | null {
	if (!rows.length) return 'nothing of it is on hand. Take another, or check the number.';
	const free = rows.map((r) => ({ ...r, promised: '0', promisedTo: null }));
	// A customer's terms are asked again when it goes, and may be passed with a reason there; so they may here.
	const asked = reason ? { ...terms, daysLeft: null, notBefore: null } : terms;
	const { short, leftOut } = allocate(need, free, today, { ...asked, oneLot: false });
	if (short === '0') return null;
	const why = [...new Set(leftOut.map((l) => l.message))].join('; ');
	return `${sub(need, short) === '0' ? 'none' : sub(need, short)} of ${need} can be promised${why ? `: ${why}` : ', more is not there'}. Take another, or promise less.`;
}

/** Takes over what is promised to others. @returns the codes of their orders */
async function takeOver(
	tx: Tx,
	actor: Actor,
	order: Order,
	given: Given,
	wanted: readonly Wanted[]
): Promise<string[]> {
	const over = wanted.flatMap((w) => w.over);
	if (!over.length) return [];
	await tx`
		UPDATE promise p SET taken = p.taken + t.qty, taken_by = ${actor.name}, taken_at = now(), taken_for = ${order.code}, taken_reason = ${given.reason ?? null}
		FROM unnest(${over.map((o) => o.id)}::bigint[], ${over.map((o) => o.qty)}::numeric[]) t(id, qty) WHERE p.id = t.id`;
	return over.map((o) => o.order);
}

/**
 * Gives promises up: what they held is free again. One that was given up already stays so.
 * @throws Problem 404 when there is none of an id
 */
export async function releasePromises(
	sql: Sql,
	actor: Actor,
	ids: readonly string[]
): Promise<{ id: string; order: string | null }[]> {
	const known = z.array(id).max(20_000).safeParse(ids);
	return transaction(sql, async (tx) => {
		const found = await tx<{ id: string; order: string | null; kind: Order['kind'] | null }[]>`
			SELECT p.id, o.code AS order, o.kind FROM promise p LEFT JOIN order_line l ON l.id = p.order_line_id LEFT JOIN orders o ON o.id = l.order_id
			WHERE p.id = ANY(${known.success ? known.data : []}::bigint[]) ORDER BY p.id FOR UPDATE OF p`;
		if (!found.length || found.length < new Set(ids).size)
			throw new Problem(
				`There is no promise ${String(ids.find((i) => !found.some((f) => f.id === i))).slice(0, 20)}. Reload the page.`,
				404
			);
		for (const { kind } of found) demand(actor.role, documentKind(kind ?? 'sale').right);
		await tx`UPDATE promise SET released_at = now(), released_by = ${actor.name} WHERE id = ANY(${found.map((f) => f.id)}::bigint[]) AND released_at IS NULL`;
		for (const order of new Set(found.flatMap((f) => f.order ?? []))) await notify(tx, order);
		return found.map((f) => ({ id: f.id, order: f.order }));
	});
}

/**
 * What is promised to the lines of an order, as its sheet shows it: what has not gone out yet, and what somebody took over.
 * @returns by the line's id
 */
export async function promisesTo(
	sql: Db,
	order: Pick<Order, 'id' | 'zone'>,
	now: Date
): Promise<Map<string, LinePromise[]>> {
	const rows = await sql<
		(Omit<LinePromise, 'takenBy' | 'over'> & {
			line: string;
			unit: string;
			by: string;
			at: Date;
			for: string | null;
			why: string | null;
		})[]
	>`
		SELECT p.id, p.order_line_id AS line, p.mark_id AS mark, k.kind, k.number, i.unit, trim_scale(p.qty)::text AS qty, trim_scale(p.rest)::text AS rest,
			trim_scale(p.taken)::text AS taken, p.until, coalesce(n.name, p.taken_by) AS by, p.taken_at AS at, p.taken_for AS for, p.taken_reason AS why
		FROM order_line l JOIN promise_left p ON p.order_line_id = l.id JOIN mark k ON k.id = p.mark_id JOIN item i ON i.id = k.item_id LEFT JOIN person n ON n.login = p.taken_by
		WHERE l.order_id = ${order.id} AND (p.taken > 0 OR p.rest > 0) ORDER BY k.number COLLATE natural_order`;
	const today = dayIn(order.zone, now);
	return group(
		rows.map(({ by, at, for: taker, why, unit, ...r }) => ({
			...r,
			takenBy:
				r.taken === '0'
					? null
					: `${by} took over ${r.kind === 'serial' ? 'it' : amount(r.taken, unit)}${taker ? ` for ${taker}` : ''} on ${showWhen(timeIn(order.zone, at))}${why ? `: ${why}` : ''}`,
			over: r.until && r.until < today ? ('run out' as const) : null
		})),
		(r) => r.line
	);
}

/** What is promised of one lot or serial, or of the pieces of a lot: to which orders, or to which customers. */
export const promisesOfMark = (sql: Db, mark: string) => sql<
	{
		id: string;
		/** code of the order, or the name of the customer */
		to: string;
		kind: Order['kind'] | null;
		number: string;
		what: 'lot' | 'serial';
		qty: Qty;
		unit: string;
		until: string | null;
	}[]
>`
	SELECT n.id, n.to, n.order_kind AS kind, k.number, k.kind AS what, trim_scale(n.rest)::text AS qty, i.unit, n.until
	FROM promise_now n JOIN mark k ON k.id = n.mark_id JOIN item i ON i.id = k.item_id WHERE n.mark_id = ${mark} OR k.parent_id = ${mark} ORDER BY n.id LIMIT 50`;

/** Promises what a receipt brought to the customers that it was bought for. */
export async function promiseArrived(tx: Tx, actor: Actor, event: string): Promise<void> {
	await tx`
		INSERT INTO promise (key, request, partner_id, mark_id, qty, arrived, since, made_by)
		SELECT 'arrived ' || ${event} || ' for ' || l.for_partner_id, ${digest({ arrived: event })}, l.for_partner_id, m.mark_id, sum(m.qty), ${event}, ${event}, ${actor.name}
		FROM movement m JOIN order_line l ON l.id = m.order_line_id AND l.for_partner_id IS NOT NULL JOIN mark k ON k.id = m.mark_id AND k.kind <> 'unmarked'
		WHERE m.event_id = ${event} GROUP BY l.for_partner_id, m.mark_id ORDER BY m.mark_id`;
}
