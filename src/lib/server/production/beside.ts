import { z } from 'zod';
import { transaction, type Sql } from '../database/connect.ts';
import { faultFrom } from '../../core/checks/check.ts';
import { noSuch } from '../../core/checks/catalogue.ts';
import { Problem } from '../../core/problem/problem.ts';
import { parseQty } from '../../core/quantity/quantity.ts';
import { line, quantity } from '../../core/text/input.ts';
import { parse } from '../parse.ts';
import { notify } from '../sheet/live.ts';
import { findOpenOrder } from '../sheet/state.ts';

/** What else comes out of an order, as parsed. */
export const besideInput = z.strictObject({
	item: line(60, 1, 'Choose what else comes out.'),
	/** how much is expected, in the item's unit */
	qty: quantity
});

/**
 * Notes that something comes out of a batch beside what it is made for: an off-cut, a by-product that its parts list does not
 * name. It is another line of the order, and its numbers are entered like those of what is made.
 * @throws Problem when the order makes its pieces one by one, or the item stands in it already
 */
export async function addByproduct(sql: Sql, code: string, input: unknown): Promise<void> {
	const given = parse(besideInput, input);
	const order = await findOpenOrder(sql, code, 'production');
	const output = order.lines.find((l) => l.role === 'output')!;
	if (output.runMode === 'unit')
		throw new Problem(
			`${output.itemName} is made one by one, and what comes out beside it belongs to a batch. Enter it as an adjustment.`
		);
	const there = order.lines.find((l) => l.item === given.item);
	if (there)
		throw new Problem(
			there.role === 'component'
				? `${there.itemName} goes in here. What was not used of it is given back; what is left of a piece is another item.`
				: `${there.itemName} stands in ${order.code} already. Enter it there.`
		);
	await transaction(sql, async (tx) => {
		const [item] = await tx<{ id: string; unit: string; decimals: number }[]>`
			SELECT id, unit, decimals FROM item WHERE code = ${given.item}`;
		if (!item) throw new Problem([faultFrom(noSuch, { what: 'item', code: given.item }, 'item')]);
		const read = parseQty(given.qty, item.decimals, item.unit);
		if ('problem' in read) throw new Problem([{ message: `${given.item}: ${read.problem}`, at: 'qty' }]);
		await tx`SELECT 1 FROM orders WHERE id = ${order.id} FOR UPDATE`;
		const added = await tx`INSERT INTO order_line (order_id, no, role, item_id, qty)
			SELECT ${order.id}, (SELECT max(no) + 1 FROM order_line WHERE order_id = ${order.id}), 'byproduct', ${item.id}, ${read.qty}
			WHERE NOT EXISTS (SELECT 1 FROM order_line WHERE order_id = ${order.id} AND item_id = ${item.id})`;
		if (!added.count) throw new Problem(`${given.item} was added to ${order.code} at the same moment.`, 409);
		await notify(tx, order.code);
	});
}
