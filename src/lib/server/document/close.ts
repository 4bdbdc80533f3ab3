import { z } from 'zod';
import { transaction, type Db, type Sql, type Tx } from '../database/connect.ts';
import { documentKind } from '../../core/document/kinds.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { demand } from '../../core/people/can.ts';
import { Problem } from '../../core/problem/problem.ts';
import { key, text } from '../../core/text/input.ts';
import { builders } from '../builders.ts';
import { book } from '../ledger/book.ts';
import { parse } from '../parse.ts';
import { notify } from '../sheet/live.ts';
import { findOpenOrder, findOrder } from '../sheet/state.ts';
import { settleOrder, type Order } from './orders.ts';
import { undoEvent } from './undo.ts';

/** Why an order is closed before all of it is booked, as parsed. */
export const closeInput = z.strictObject({
	key,
	reason: text(1000, 1, 'Say why, in one line. It is kept with the order.')
});

/** Nothing that somebody typed or began may be lost by closing an order. @throws Problem naming it */
async function mayClose(sql: Db, order: Pick<Order, 'id' | 'code' | 'kind'>): Promise<void> {
	const begun = await builders[order.kind].begun?.(sql, order);
	if (begun) throw new Problem(begun);
	const [{ rows }] = await sql<
		{ rows: number }[]
	>`SELECT count(*)::int AS rows FROM draft_row WHERE order_id = ${order.id}`;
	if (rows)
		throw new Problem(
			`${rows} ${rows === 1 ? 'row is' : 'rows are'} entered in the sheet of ${order.code} and not booked. Book or remove ${rows === 1 ? 'it' : 'them'} first.`
		);
}

/**
 * Closes an order before all of it is booked: no more of it comes, is made or goes. A batch that is being made is closed
 * with it, so that what went in is in what came out, and nothing is in process any more.
 * @throws Problem 409 when it is complete; 422 naming what somebody began and would be lost
 */
export async function closeShort(
	sql: Sql,
	actor: Actor,
	code: string,
	input: unknown,
	now = new Date()
): Promise<void> {
	const given = parse(closeInput, input);
	const order = await findOpenOrder(sql, code);
	demand(actor.role, documentKind(order.kind).create);
	await mayClose(sql, order);
	const close = async (tx: Tx) => {
		await tx`SELECT 1 FROM orders WHERE id = ${order.id} FOR UPDATE`;
		await mayClose(tx, order);
		await tx`UPDATE orders SET closed_short = ${given.reason}, closed_at = ${now} WHERE id = ${order.id} AND closed_at IS NULL`;
		await notify(tx, order.code);
	};
	const [run] = await sql<{ code: string }[]>`
		SELECT r.code FROM run r WHERE r.order_id = ${order.id} AND r.unit_mark IS NULL AND EXISTS (SELECT 1 FROM effective_movement m WHERE m.run_id = r.id)
			AND NOT EXISTS (SELECT 1 FROM run_closing c WHERE c.run_id = r.id AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = c.event_id)) LIMIT 1`;
	if (!run) return transaction(sql, close);
	await book(
		sql,
		actor,
		{
			...{ key: given.key, kind: 'output', at: now.toISOString(), reason: given.reason },
			...{ document: order.code, order: order.id, runs: [{ code: run.code, closed: true }], movements: [] }
		},
		{ request: { close: order.code, reason: given.reason }, after: close }
	);
}

/** Opens an order again that was closed short. @throws Problem 409 when it was not */
export async function openAgain(sql: Sql, actor: Actor, code: string, input: unknown): Promise<void> {
	const given = parse(closeInput, input);
	const order = await findOrder(sql, code);
	demand(actor.role, documentKind(order.kind).create);
	if (!order.closedShort) throw new Problem(`${order.code} was not closed before it was complete.`, 409);
	const [closing] = await sql<{ id: string }[]>`
		SELECT e.id FROM event e JOIN run_closing c ON c.event_id = e.id WHERE e.order_id = ${order.id}
			AND NOT EXISTS (SELECT 1 FROM movement m WHERE m.event_id = e.id) AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id) ORDER BY e.id DESC LIMIT 1`;
	if (closing) await undoEvent(sql, actor, { undo: closing.id, key: given.key, reason: given.reason });
	await transaction(sql, async (tx) => {
		await tx`UPDATE orders SET closed_short = NULL, closed_at = NULL WHERE id = ${order.id} AND closed_short IS NOT NULL`;
		await settleOrder(tx, order.id);
		await notify(tx, order.code);
	});
}
