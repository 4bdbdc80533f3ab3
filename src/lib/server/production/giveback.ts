import { z } from 'zod';
import type { Sql } from '../database/connect.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { parseQty } from '../../core/quantity/quantity.ts';
import { id, key, line, quantity, text } from '../../core/text/input.ts';
import { settleOrder } from '../document/orders.ts';
import { book, type Booked } from '../ledger/book.ts';
import { parse } from '../parse.ts';
import { notify } from '../sheet/live.ts';
import { findOrder } from '../sheet/state.ts';
import { inBatch } from './leftover.ts';

/** What is given back, as parsed. */
export const giveBackInput = z.strictObject({
	key,
	reason: text(1000, 0).nullish(),
	rows: z
		.array(z.strictObject({ mark: id, qty: quantity, place: line(45, 0) }))
		.min(1, 'Nothing is chosen yet. Say of what goes back how much it is.')
		.max(1000)
});

/**
 * Gives back what was put into a batch and not used: it comes out of the batch's run as it went in, and lies in its bin again.
 * @throws Problem naming each row that is more than what is in the batch, or goes nowhere; nothing is booked then
 */
export async function giveBack(
	sql: Sql,
	actor: Actor,
	code: string,
	input: unknown,
	now = new Date()
): Promise<Booked> {
	const given = parse(giveBackInput, input);
	const order = await findOrder(sql, code, 'production');
	const inside = new Map((await inBatch(sql, order.id)).map((r) => [r.mark, r]));
	const faults: Fault[] = [];
	const movements = given.rows.flatMap((row, n) => {
		const at = `rows[${n}]`;
		const of = inside.get(row.mark);
		if (!of) return (faults.push({ message: `This is not in ${order.code} any more. Reload the page.`, at }), []);
		const name = of.number || of.itemName;
		const read = parseQty(row.qty, of.decimals, of.unit);
		if ('problem' in read) return (faults.push({ message: `${name}: ${read.problem}`, at }), []);
		if (!row.place) return (faults.push({ message: `${name}: choose the bin that it goes back to.`, at }), []);
		return [
			{
				...{ item: of.item, ...(of.kind === 'unmarked' ? {} : { mark: of.mark }), qty: read.qty, from: '@process' },
				...{ to: row.place, run: of.run, role: 'detach' as const, orderLine: of.lineId },
				...(of.kind === 'unmarked' ? {} : { evidence: 'entered' as const })
			}
		];
	});
	if (faults.length) throw new Problem(faults);
	return book(
		sql,
		actor,
		{
			...{ key: given.key, kind: 'use', at: now.toISOString(), reason: given.reason || null },
			...{ document: order.code, order: order.id, movements }
		},
		{
			request: { back: order.code, ...given },
			after: async (tx) => {
				await settleOrder(tx, order.id);
				await notify(tx, order.code);
			}
		}
	);
}
