import { z } from 'zod';
import { documentKind } from '../../core/document/kinds.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { demand } from '../../core/people/can.ts';
import { Problem } from '../../core/problem/problem.ts';
import { id, line } from '../../core/text/input.ts';
import { transaction, type Sql } from '../database/connect.ts';
import { parse } from '../parse.ts';
import { notify } from '../sheet/live.ts';
import type { Order } from './orders.ts';

/** Something that stays to be done of a document, as parsed: a new one, or one that is ticked off or taken up again. */
export const todoGiven = z.union(
	[
		z.strictObject({
			what: line(200, 1, 'Say what stays to be done.', 'That is too long: say it in at most 200 characters.')
		}),
		z.strictObject({ id, done: z.boolean(), said: line(200, 0).default('') })
	],
	'Say what stays to be done, or which of it is done.'
);

/** Adds something that stays to be done of a document, or ticks it off. @throws Problem when it is not there, or done already */
export async function setTodo(sql: Sql, actor: Actor, order: Order, input: unknown, now = new Date()): Promise<void> {
	demand(actor.role, documentKind(order.kind).right);
	const given = parse(todoGiven, input);
	await transaction(sql, async (tx) => {
		if ('what' in given) {
			if (order.todos.length >= 50)
				throw new Problem(`${order.code} has 50 things to do already. Tick some off first.`);
			await tx`INSERT INTO todo (order_id, what, made_by) VALUES (${order.id}, ${given.what}, ${actor.name})`;
		} else {
			const changed = await tx`
				UPDATE todo SET done_at = CASE WHEN ${given.done} THEN ${now}::timestamptz END, done_by = CASE WHEN ${given.done} THEN ${actor.name}::text END, said = ${given.done ? given.said : ''}
				WHERE id = ${given.id} AND order_id = ${order.id} AND (done_at IS NOT NULL) <> ${given.done}`;
			if (!changed.count)
				throw new Problem(
					'Somebody ticked this at the same moment, or it is not there. The page shows how it is now.',
					409
				);
		}
		await notify(tx, order.code);
	});
}
