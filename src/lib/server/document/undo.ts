import type { Sql } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { book, type Booked } from '../ledger/book.ts';
import { notify } from '../sheet/live.ts';
import { alsoOf, settleOrder } from './orders.ts';

interface Named {
	id: string;
	code: string;
}
/**
 * Takes an event back, whatever it is of; an order opens again when it was complete.
 * @param of the order whose page it is undone on; it must be one of its events
 */
export async function undoEvent(
	sql: Sql,
	actor: Actor,
	input: { undo: string; key: string; reason: string },
	of: { id: string; code: string } | null = null
): Promise<Booked> {
	const [event] = await sql<{ key: string; orderId: string | null; code: string | null; others: Named[] }[]>`
		SELECT e.key, o.id AS "orderId", o.code, coalesce((SELECT json_agg(json_build_object('id', w.order_id::text, 'code', x.code) ORDER BY w.order_id) FROM order_event w JOIN orders x ON x.id = w.order_id WHERE w.event_id = e.id), '[]') AS others
		FROM event e LEFT JOIN orders o ON o.id = e.order_id WHERE e.id = ${input.undo}`;
	if (!event || (of && event.orderId !== of.id && !event.others.some((o) => o.id === of.id)))
		throw new Problem(
			of
				? `Event ${input.undo} does not belong to ${of.code}. Reload the page.`
				: `There is no event ${input.undo}. Reload the page.`,
			404
		);
	const order = event.orderId ? { id: event.orderId, code: event.code! } : null;
	return book(
		sql,
		actor,
		{
			key: input.key,
			kind: 'undo',
			at: new Date().toISOString(),
			undoes: event.key,
			reason: input.reason,
			order: order?.id,
			document: order?.code
		},
		{
			request: { undo: input.undo, reason: input.reason },
			...(order
				? {
						after: async (tx, booked) => {
							if (event.others.length)
								await alsoOf(
									tx,
									booked.id,
									event.others.map((o) => o.id)
								);
							for (const { id, code } of [order, ...event.others]) {
								await settleOrder(tx, id);
								await notify(tx, code);
							}
						}
					}
				: {})
		}
	);
}
