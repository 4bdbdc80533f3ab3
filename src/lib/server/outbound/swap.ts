import { z } from 'zod';
import { documentKind } from '../../core/document/kinds.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { demand } from '../../core/people/can.ts';
import { Problem } from '../../core/problem/problem.ts';
import { isZero, least } from '../../core/quantity/quantity.ts';
import type { Mode, PickRow } from '../../core/sheet/sheet.ts';
import { id, key, line, text } from '../../core/text/input.ts';
import { transaction, type Sql } from '../database/connect.ts';
import { settleOrder, type Order, type OrderLine } from '../document/orders.ts';
import { bookedUnder, digest } from '../ledger/append.ts';
import { book } from '../ledger/book.ts';
import { parse } from '../parse.ts';
import { insertRows, lockSheet, takeRows } from '../sheet/drafts.ts';
import type { Movement } from '../sheet/lines.ts';
import { notify } from '../sheet/live.ts';
import { sheetWithin, sheetState } from '../sheet/state.ts';
import { binOf } from './sale.ts';
import { promiseInstead } from '../document/promises.ts';

const at = { mark: id, place: line(45, 0).default('') };
/** One number for another on a line, as parsed. */
export const swapInput = z.strictObject({
	key,
	line: id,
	/** what is taken out of the line; its place, where it has not gone yet */
	out: z.strictObject(at),
	/** what goes in its place, and where it lies */
	in: z.strictObject(at),
	/** where what had gone comes back to; without it, to where it went from */
	to: line(45, 0).optional(),
	reason: text(1000, 0).optional()
});
type Swap = z.output<typeof swapInput>;

/**
 * Puts one number in the place of another on a line that sells. What has not gone yet is picked instead, with its promise;
 * what has gone comes back as the other goes, in one event.
 * @returns what was done, in words
 * @throws Problem when the one is not on the line, or the other may not go; nothing is changed then
 */
export async function swap(
	sql: Sql,
	actor: Actor,
	order: Order,
	input: unknown,
	mode: Mode = 'both',
	now = new Date()
): Promise<string> {
	const kind = documentKind(order.kind);
	demand(actor.role, kind.right);
	if (!kind.sells) throw new Problem(`${order.code} sells nothing: take one number out and choose the other.`);
	const given = parse(swapInput, input);
	const of = order.lines.find((l) => l.id === given.line);
	if (!of) throw new Problem('This line is not there any more. Reload the page.', 404);
	if (given.out.mark === given.in.mark) throw new Problem('This is the number that it was already. Choose another.');
	const [other] = await sql`SELECT 1 FROM mark WHERE id = ${given.in.mark} AND item_id = ${of.itemId}`;
	if (!other) throw new Problem(`This is no number of ${of.itemName}. Choose one of it.`);
	return given.out.place
		? picksInstead(sql, actor, order, of, given, mode, now)
		: goesInstead(sql, actor, order, of, given, now);
}

/** Before it has gone: another is picked in its place, and what was promised of the one is promised of the other. */
async function picksInstead(sql: Sql, actor: Actor, order: Order, of: OrderLine, given: Swap, mode: Mode, now: Date) {
	const { lines } = await sheetState(sql, order.code, mode);
	const picks = lines.find((l) => l.id === of.id)?.cells.flatMap((c) => c.picks) ?? [];
	const isOut = (p: PickRow) => p.mark === given.out.mark && p.place === given.out.place;
	const old = picks.find(isOut);
	if (!old) throw new Problem('This is not chosen for the line any more. The sheet shows what is.', 409);
	await transaction(sql, async (tx) => {
		await lockSheet(tx, order.id);
		// What was suggested beside it stays so; the one that goes out is left out of it.
		const rows = [
			{ lineId: of.id, data: { ...given.in, qty: old.qty } },
			{ lineId: of.id, data: { ...given.out, qty: '0' } }
		];
		if (old.id) await takeRows(tx, order.code, [old.id]);
		await insertRows(tx, actor.name, order.id, rows);
		const instead = { key: given.key, from: given.out.mark, to: given.in.mark, reason: given.reason || null };
		await promiseInstead(tx, actor, order, of, instead, now);
		const line = (await sheetWithin(tx, order, mode)).lines.find((l) => l.id === of.id)!;
		const stop = line.cells
			.flatMap((c) => c.picks.filter((p) => p.mark === given.in.mark).flatMap((p) => p.findings))
			.find((f) => f.level === 'stop' && !f.open);
		if (stop) throw new Problem(stop.message);
		await notify(tx, order.code);
	});
	return 'Swapped: the other number goes.';
}

/** After it has gone: the one comes back and the other goes, in one event. */
async function goesInstead(sql: Sql, actor: Actor, order: Order, of: OrderLine, given: Swap, now: Date) {
	const { key: under, ...asked } = given;
	const request = { swap: order.code, ...asked };
	if (!(await bookedUnder(sql, under, digest(request)))) await bookSwap(sql, actor, order, of, given, request, now);
	return 'Swapped: the one came back and the other went, in one event.';
}
async function bookSwap(sql: Sql, actor: Actor, order: Order, of: OrderLine, given: Swap, request: unknown, now: Date) {
	const [gone] = await sql<{ qty: string; from: string }[]>`
		SELECT trim_scale(sum(d.qty))::text AS qty, (SELECT ${binOf(sql)} FROM effective_movement m JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place AND t.code = '@customer'
			WHERE m.mark_id = ${given.out.mark} AND m.order_line_id = ${of.id} ORDER BY m.id DESC LIMIT 1) AS from
		FROM line_done d WHERE d.order_line_id = ${of.id} AND d.mark_id = ${given.out.mark}`;
	if (!gone.qty || isZero(gone.qty))
		throw new Problem('This has not gone on the line, or came back since. Reload the page.', 409);
	const [lies] = await sql<{ qty: string }[]>`
		SELECT trim_scale(b.qty)::text AS qty FROM balance b JOIN place p ON p.id = b.place_id AND p.code = ${given.in.place} WHERE b.mark_id = ${given.in.mark} AND b.qty > 0 AND NOT b.virtual`;
	if (!lies) throw new Problem('The other number does not lie there any more. Choose again.', 409);
	const [waits] = await sql`SELECT 1 FROM place WHERE code = ${given.to ?? ''} AND staging`;
	if (waits) throw new Problem(`Picked goods wait at ${given.to}. Name the bin that it comes back to.`);
	const qty = least(gone.qty, lies.qty);
	const moved = { item: of.item, qty, orderLine: of.id, evidence: 'entered' as const };
	const movements: Movement[] = [
		{ ...moved, mark: given.out.mark, from: '@customer', to: given.to || gone.from },
		{ ...moved, mark: given.in.mark, from: given.in.place, to: '@customer' }
	];
	await book(
		sql,
		actor,
		{
			...{ key: given.key, kind: 'shipment', at: now.toISOString(), reason: given.reason || null },
			...{ document: order.code, partner: order.partner, order: order.id, movements }
		},
		{
			request,
			after: async (tx) => {
				await settleOrder(tx, order.id);
				await notify(tx, order.code);
			}
		}
	);
}
