import { z } from 'zod';
import { transaction, type Sql } from '../database/connect.ts';
import { documentKind } from '../../core/document/kinds.ts';
import { demand } from '../../core/people/can.ts';
import { Problem } from '../../core/problem/problem.ts';
import { line } from '../../core/text/input.ts';
import { parse } from '../parse.ts';
import { notify } from '../sheet/live.ts';
import { mustBeOpen, type Order } from './orders.ts';

/** How a document is to be sent, as parsed; empty for nothing said. */
export const wayGiven = z.strictObject({ way: line(20, 0) });

/** Sets how a document is sent. @throws Problem when it is of a kind that is not sent, complete, or the way is unknown or closed */
export async function setWay(sql: Sql, who: { role: string }, order: Order, input: unknown): Promise<void> {
	const kind = documentKind(order.kind);
	demand(who.role, kind.create);
	const { way } = parse(wayGiven, input);
	if (!kind.sent) throw new Problem(`A ${kind.name} is sent to nobody.`);
	mustBeOpen(order);
	await transaction(sql, async (tx) => {
		const [known] = way
			? await tx<{ id: string; closed: boolean }[]>`
			SELECT id, closed_on IS NOT NULL AS closed FROM delivery_way WHERE code = ${way}`
			: [{ id: null, closed: false }];
		if (!known || known.closed)
			throw new Problem(
				known
					? `${way} is closed. Choose another way of delivery.`
					: `There is no way of delivery ${way}. Reload the page.`
			);
		await tx`UPDATE orders SET way_id = ${known.id} WHERE id = ${order.id}`;
		await notify(tx, order.code);
	});
}
