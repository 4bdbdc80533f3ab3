import type { Sql } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { book, type Booked } from '../ledger/book.ts';
import { notify } from '../sheet/live.ts';
import { settleOrder } from './orders.ts';

/** Takes an event of an order back; the order opens again when it was complete. */
export async function undoOrderEvent(
	sql: Sql,
	actor: Actor,
	order: { id: string; code: string },
	input: { undo: string; key: string; reason: string }
): Promise<Booked> {
	const [event] = await sql<
		{ key: string }[]
	>`SELECT key FROM event WHERE id = ${input.undo} AND order_id = ${order.id}`;
	if (!event) throw new Problem(`Event ${input.undo} does not belong to ${order.code}. Reload the page.`, 404);
	return book(
		sql,
		actor,
		{
			key: input.key,
			kind: 'undo',
			at: new Date().toISOString(),
			undoes: event.key,
			reason: input.reason,
			order: order.id,
			document: order.code
		},
		{
			request: { undo: input.undo, reason: input.reason },
			after: async (tx) => {
				await settleOrder(tx, order.id);
				await notify(tx, order.code);
			}
		}
	);
}
