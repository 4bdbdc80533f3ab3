import { z } from 'zod';
import { parseDay } from '../../core/dates/dates.ts';
import { documentKind } from '../../core/document/kinds.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { demand } from '../../core/people/can.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { isZero, less, parseQty, rest, show } from '../../core/quantity/quantity.ts';
import { id, key, line } from '../../core/text/input.ts';
import { dayIn } from '../../core/time/clock.ts';
import { transaction, type Sql } from '../database/connect.ts';
import { parse } from '../parse.ts';
import { notify } from '../sheet/live.ts';
import type { Order } from './orders.ts';

const given = {
	key,
	number: line(60, 1, 'Type its number.', 'A number has at most 60 characters.'),
	/** today where nothing is said */
	dated: line(40, 0).optional()
};
/** A payment or an invoice that a program of others made, or one of these that is withdrawn, as parsed. */
export const notedInput = z.union(
	[
		z.strictObject({ ...given, what: z.literal('payment') }),
		z.strictObject({
			...given,
			what: z.literal('invoice'),
			/** so much of each line, by its number; what is open of all of them where nothing is said */
			lines: z
				.array(z.strictObject({ no: z.number().int().positive(), qty: line(40) }))
				.max(500)
				.optional()
		}),
		z.strictObject({ withdraw: id })
	],
	'Give the number of a payment or an invoice, or which of them is withdrawn.'
);

/**
 * Notes what a program of others did of a document: a payment, or an invoice of so much of its lines. The same key again
 * notes nothing.
 * @throws Problem when no invoices are written of it, a quantity cannot be read, or the number is noted already
 */
export async function note(sql: Sql, actor: Actor, order: Order, input: unknown, now = new Date()): Promise<void> {
	const kind = documentKind(order.kind);
	demand(actor.role, kind.right);
	const asked = parse(notedInput, input);
	if (!kind.invoiced)
		throw new Problem(`Nothing is invoiced or paid of a ${kind.name}. Note it on the order that it belongs to.`);
	await transaction(sql, async (tx) => {
		await tx`SELECT 1 FROM orders WHERE id = ${order.id} FOR UPDATE`;
		if ('withdraw' in asked) {
			const done =
				await tx`UPDATE noted SET withdrawn_by = ${actor.name}, withdrawn_at = ${now} WHERE id = ${asked.withdraw} AND order_id = ${order.id} AND withdrawn_at IS NULL`;
			if (!done.count)
				throw new Problem(
					'Somebody withdrew this at the same moment, or it is not there. The page shows how it is now.',
					409
				);
			return notify(tx, order.code);
		}
		const [known] = await tx<{ same: boolean }[]>`
			SELECT order_id = ${order.id} AND what = ${asked.what} AND number = ${asked.number} AS same FROM noted WHERE key = ${asked.key}`;
		if (known && !known.same)
			throw new Problem(
				[
					{
						message: `The key ${asked.key} stands for something else already. Give each request a key of its own.`,
						at: 'key',
						code: 'key'
					}
				],
				409
			);
		if (known) return;
		const day = asked.dated ? parseDay(asked.dated) : { day: dayIn(order.zone, now) };
		if ('problem' in day) throw new Problem([{ message: day.problem, at: 'dated', code: 'date' }]);
		if (
			(
				await tx`SELECT 1 FROM noted WHERE order_id = ${order.id} AND what = ${asked.what} AND number = ${asked.number} AND withdrawn_at IS NULL`
			).length
		)
			throw new Problem([
				{
					message: `The ${asked.what} ${asked.number} is noted already. Withdraw it first, if it was another.`,
					at: 'number',
					code: 'noted'
				}
			]);
		const lines = asked.what === 'invoice' ? linesOf(order, asked.lines) : [];
		const [{ id: made }] = await tx<{ id: string }[]>`
			INSERT INTO noted (key, order_id, what, number, dated, noted_by) VALUES (${asked.key}, ${order.id}, ${asked.what}, ${asked.number}, ${day.day}, ${actor.name}) RETURNING id`;
		await tx`INSERT INTO noted_line (noted_id, order_line_id, qty) SELECT ${made}, n.* FROM unnest(${lines.map((l) => l.id)}::bigint[], ${lines.map((l) => l.qty)}::numeric[]) n`;
		await notify(tx, order.code);
	});
}

/** How much of which lines an invoice is of. */
function linesOf(order: Order, said: readonly { no: number; qty: string }[] | undefined) {
	const goods = order.lines.filter((l) => l.role === 'goods');
	const open = goods.map((l) => ({ id: l.id, qty: rest(l.done, l.invoiced) }));
	const faults: Fault[] = [];
	const fault = (no: number, message: string) => void faults.push({ message, at: `line ${no}`, code: 'noted' });
	const lines = !said
		? open
		: said.flatMap(({ no, qty }, i) => {
				const of = goods.find((l) => l.no === no);
				if (!of) return (fault(no, `${order.code} has no line ${no}.`), []);
				if (said.findIndex((x) => x.no === no) < i)
					return (fault(no, `Line ${no} stands here twice. Put it in one.`), []);
				const read = parseQty(qty, of.decimals, of.unit);
				if ('problem' in read) return (fault(no, `Line ${no}: ${read.problem}`), []);
				if (less(of.qty, of.invoiced) || less(rest(of.qty, of.invoiced), read.qty))
					return (
						fault(
							no,
							`Line ${no}: ${show(of.qty)} are ordered and ${show(of.invoiced)} invoiced already. Give less, or withdraw an invoice.`
						),
						[]
					);
				return [{ id: of.id, qty: read.qty }];
			});
	if (faults.length) throw new Problem(faults);
	const some = lines.filter((l) => !isZero(l.qty));
	if (!some.length) throw new Problem('Nothing is open to be invoiced. Say how much of which line it is of.');
	return some;
}
