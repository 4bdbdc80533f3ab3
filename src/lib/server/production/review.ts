import { z } from 'zod';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { can, demand } from '../../core/people/can.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { key, line, text } from '../../core/text/input.ts';
import { timeIn } from '../../core/time/clock.ts';
import { insertRows } from '../sheet/drafts.ts';
import { notify } from '../sheet/live.ts';
import { parse } from '../parse.ts';
import { bookUnits, movesOf, whatStops, type Used } from './bookunits.ts';
import { readUnits, unitOrder, unitOrders, type UnitOrder, type UnitState } from './units.ts';

/** An order with units that are being put together. */
export interface ReviewOrder {
	code: string;
	item: string;
	itemName: string;
	open: number;
	ready: number;
	back: number;
	/** of the ready ones: how many somebody has to look at who may review */
	review: number;
}
/** Orders with units at work, those with units that wait first. */
export const reviewOrders = (sql: Db) => sql<ReviewOrder[]>`
	SELECT o.code, i.code AS item, i.name AS "itemName", n.open, n.ready, n.back, n.review FROM (
		SELECT u.order_id, count(*) FILTER (WHERE u.state = 'open')::int AS open, count(*) FILTER (WHERE u.state = 'ready')::int AS ready,
			count(*) FILTER (WHERE u.state = 'back')::int AS back, count(*) FILTER (WHERE u.state = 'ready' AND u.review)::int AS review
		FROM unit_work u GROUP BY 1) n
	JOIN orders o ON o.id = n.order_id JOIN order_line l ON l.order_id = o.id AND l.role = 'output' JOIN item i ON i.id = l.item_id
	ORDER BY n.ready = 0, o.code COLLATE natural_order`;
/** How many units wait to be booked, for Today; of those that ask for a review only where the person may do it. */
export const unitsWaiting = async (sql: Db, mayReview: boolean): Promise<number> =>
	(
		await sql<
			{ n: number }[]
		>`SELECT count(*)::int AS n FROM unit_work WHERE state = 'ready' AND (${mayReview} OR NOT review)`
	)[0].n;

/** A part in a unit, as the review shows it. */
export interface ReviewedPart {
	itemName: string;
	item: string;
	number: string;
	kind: 'lot' | 'serial' | 'unmarked';
	qty: string;
	unit: string;
	place: string;
	evidence: string;
	by: string;
	at: string;
}
/** A unit, as the review shows it. */
export interface ReviewedUnit {
	order: string;
	serial: string;
	state: UnitState;
	review: boolean;
	station: string | null;
	said: string;
	by: string;
	at: string;
	parts: ReviewedPart[];
	/** parts without numbers, used with the output */
	used: Used[];
	/** what is still to be scanned */
	missing: { itemName: string; left: string; unit: string }[];
	/** why it cannot be booked as it is */
	stops: { level: 'stop' | 'reason'; message: string }[];
}
/** What of the units at work is shown. */
export interface ReviewAsked {
	/** of one order, or of every order of an item; all where both are left out */
	order?: string | null;
	item?: string | null;
	state?: UnitState | null;
	/** the unit that the page begins after */
	after?: { order: string; serial: string } | null;
}
/** Units on one page of the review. */
export const REVIEW_PAGE = 50;

/** A page of units at work, each with its parts, who put them in, when and how, and what stands in the way of booking it. */
export async function reviewPage(
	sql: Db,
	asked: ReviewAsked,
	now = new Date()
): Promise<{ units: ReviewedUnit[]; more: boolean; total: number }> {
	const where = sql`FROM unit_work u JOIN orders o ON o.id = u.order_id JOIN order_line l ON l.order_id = o.id AND l.role = 'output' JOIN item i ON i.id = l.item_id
		WHERE (${asked.order ?? null}::text IS NULL OR o.code = ${asked.order ?? null}) AND (${asked.item ?? null}::text IS NULL OR i.code = ${asked.item ?? null})
			AND (${asked.state ?? null}::text IS NULL OR u.state = ${asked.state ?? null})`;
	const after = asked.after;
	const [list, [{ total }]] = await Promise.all([
		sql<{ code: string; serial: string }[]>`
			SELECT o.code, u.serial ${where} ${after ? sql`AND (o.code, u.serial COLLATE natural_order) > (${after.order}, ${after.serial} COLLATE natural_order)` : sql``}
			ORDER BY o.code, u.serial COLLATE natural_order LIMIT ${REVIEW_PAGE + 1}`,
		sql<{ total: number }[]>`SELECT count(*)::int AS total ${where}`
	]);
	const shown = list.slice(0, REVIEW_PAGE);
	const orders = await unitOrders(sql, [...new Set(shown.map((s) => s.code))]);
	const byOrder = await Promise.all(
		orders.map((order) =>
			unitsOf(
				sql,
				order,
				shown.filter((s) => s.code === order.code).map((s) => s.serial),
				now
			)
		)
	);
	const rows = new Map(byOrder.flat().map((u) => [`${u.order} ${u.serial}`, u]));
	return {
		units: shown.flatMap((s) => rows.get(`${s.code} ${s.serial}`) ?? []),
		more: list.length > REVIEW_PAGE,
		total
	};
}

async function unitsOf(sql: Db, order: UnitOrder, serials: readonly string[], now: Date): Promise<ReviewedUnit[]> {
	const units = await readUnits(sql, order, serials);
	const moves = await movesOf(sql, order, units, now);
	const stops = await whatStops(
		sql,
		order,
		moves.filter((m) => m.unit.state === 'ready'),
		now
	);
	return moves.map(({ unit: u, used }) => ({
		...{ order: order.code, serial: u.serial, state: u.state, review: u.review, station: u.station?.name ?? null },
		...{ said: u.said, by: u.by, at: timeIn(order.zone, u.at) },
		parts: u.slots.flatMap((s) =>
			s.puts.map((p) => ({
				...{
					itemName: s.line.itemName,
					item: s.line.item,
					unit: s.line.unit,
					number: p.number,
					kind: p.kind,
					qty: p.qty
				},
				...{ place: p.place, evidence: p.evidence, by: p.by, at: timeIn(order.zone, p.at) }
			}))
		),
		used: used.filter((x) => !u.slots.some((s) => s.line.id === x.lineId && s.puts.length)),
		missing: u.slots
			.filter((s) => s.line.tracking !== 'none' && s.left !== '0')
			.map((s) => ({ itemName: s.line.itemName, left: s.left, unit: s.line.unit })),
		stops: stops.get(u.serial) ?? []
	}));
}

const ofUnits = z.strictObject({
	order: line(60),
	/** none named: all of the order that are ready */
	serials: z.array(line(60)).max(20_000).nullish(),
	/** left out of them */
	except: z.array(line(60)).max(20_000).default([])
});
/** What is to be booked, as parsed. */
export const bookUnitsInput = z.strictObject({
	key,
	units: z.array(ofUnits).min(1, 'Choose an order.').max(200),
	reason: text(1000, 0).nullish()
});
/** What came of booking units of one order. */
export interface BookedUnits {
	order: string;
	units: number;
	event: string | null;
	faults: Fault[];
}

/**
 * Books units of some orders, those of each order in one event. What stands in the way of one order leaves it as it is and
 * is said; the others are booked.
 */
export async function bookReviewed(sql: Sql, who: Actor, input: unknown): Promise<BookedUnits[]> {
	const given = parse(bookUnitsInput, input);
	const mayReview = can(who.role, 'review units');
	const out: BookedUnits[] = [];
	for (const { order: code, serials, except } of given.units) {
		const order = await unitOrder(sql, code);
		if (!order) throw new Problem(`There is no production order ${code}. Reload the page.`, 404);
		try {
			const { booked, units } = await bookUnits(sql, who, order, serials ?? null, {
				key: `${given.key}:${order.code}`,
				mayReview,
				except,
				reason: given.reason
			});
			out.push({ order: code, units, event: booked.id, faults: [] });
		} catch (e) {
			if (!(e instanceof Problem)) throw e;
			out.push({ order: code, units: 0, event: null, faults: e.faults.slice(0, 20) });
		}
	}
	return out;
}

/** Units that are sent back, as parsed. */
export const backInput = z.strictObject({
	order: line(60),
	serials: z.array(line(60)).min(1, 'Choose a unit.').max(20_000),
	why: text(1000, 1, 'Say why, so that whoever made it knows what to mend.')
});
/** Sends units back to their station, with why. They are not booked until something in them is changed, or they are taken as they are. */
export async function sendBack(sql: Sql, who: Actor, input: unknown): Promise<number> {
	const { order, serials, why } = parse(backInput, input);
	return changeState(sql, order, async (tx, id) => {
		const done =
			await tx`UPDATE unit_work SET state = 'back', said = ${why}, changed_by = ${who.name}, changed_at = clock_timestamp()
			WHERE order_id = ${id} AND serial = ANY(${serials}) AND state = 'ready'`;
		return done.count;
	});
}
/** Takes a unit that was sent back as it is: it is ready again. */
export async function takeAsItIs(sql: Sql, who: Actor, code: string, serial: string): Promise<number> {
	return changeState(sql, code, async (tx, id) => {
		const done =
			await tx`UPDATE unit_work SET state = 'ready', said = '', changed_by = ${who.name}, changed_at = clock_timestamp()
			WHERE order_id = ${id} AND serial = ${serial} AND state = 'back'`;
		return done.count;
	});
}
/**
 * Hands a unit to the desk: from now on it is a row of the order's sheet with its parts, where a reason can be given and
 * everything typed that a station does not ask.
 */
export async function handToDesk(sql: Sql, who: Actor, code: string, serial: string): Promise<number> {
	const order = await unitOrder(sql, code);
	if (!order) throw new Problem(`There is no production order ${code}. Reload the page.`, 404);
	return changeState(sql, code, async (tx, id) => {
		const [unit] = await tx<{ evidence: string; review: boolean }[]>`
			DELETE FROM unit_work WHERE order_id = ${id} AND serial = ${serial} RETURNING evidence, review`;
		if (!unit) return 0;
		// At the desk it is booked without a review.
		if (unit.review) demand(who.role, 'review units');
		await insertRows(tx, who.name, id, [
			{ lineId: order.made.id, data: { serial, count: 1, ...(unit.evidence === 'scanned' ? { scanned: '0' } : {}) } }
		]);
		return 1;
	});
}
async function changeState(sql: Sql, code: string, work: (tx: Db, order: string) => Promise<number>): Promise<number> {
	return transaction(sql, async (tx) => {
		const [order] = await tx<{ id: string }[]>`SELECT id FROM orders WHERE code = ${code}`;
		if (!order) throw new Problem(`There is no production order ${code}. Reload the page.`, 404);
		const n = await work(tx, order.id);
		if (!n) throw new Problem('That was changed or booked at the same moment. Look at the review again.', 409);
		await notify(tx, code);
		return n;
	});
}
