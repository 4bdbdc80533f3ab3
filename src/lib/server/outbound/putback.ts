import { z } from 'zod';
import type { Sql } from '../database/connect.ts';
import { documentKind } from '../../core/document/kinds.ts';
import { group } from '../../core/group/group.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { demand } from '../../core/people/can.ts';
import { Problem } from '../../core/problem/problem.ts';
import { isZero, least, sub } from '../../core/quantity/quantity.ts';
import { id, key, text } from '../../core/text/input.ts';
import { bookedUnder, digest } from '../ledger/append.ts';
import { book, type Booked } from '../ledger/book.ts';
import { parse } from '../parse.ts';
import type { Movement } from '../sheet/lines.ts';
import { notify } from '../sheet/live.ts';
import { findOrder } from '../sheet/state.ts';

/** What of what waits is put back, as parsed. */
export const putBackInput = z.strictObject({
	key,
	/** ids of the marks; all of them without */
	marks: z.array(id).max(20_000).optional(),
	reason: text(1000, 0).optional()
});

/** What came to where it waits by one movement. */
interface Came {
	line: string;
	mark: string;
	item: string;
	at: string;
	from: string;
	qty: string;
	/** how much of it all waits there still */
	waits: string;
}
/** Puts what waits back to the bins that it was picked from, what was picked last first. @returns what of it goes where */
export function backTo(came: readonly Came[]): (Omit<Came, 'waits'> & { qty: string })[] {
	return [...group(came, (c) => `${c.line} ${c.mark} ${c.at}`).values()].flatMap((list) => {
		let left = list[0].waits;
		return list.flatMap(({ waits: _waits, ...c }) => {
			const qty = least(left, c.qty);
			left = sub(left, qty);
			return isZero(qty) ? [] : [{ ...c, qty }];
		});
	});
}

/**
 * Puts what was picked for an order and waits back to where it was picked from, in one event.
 * @returns the event, and where each goes
 * @throws Problem when nothing of it waits
 */
export async function putBack(
	sql: Sql,
	actor: Actor,
	code: string,
	input: unknown
): Promise<{ booked: Booked; back: { number: string; to: string }[] }> {
	const { key: under, ...given } = parse(putBackInput, input);
	const order = await findOrder(sql, code);
	demand(actor.role, documentKind(order.kind).right);
	const request = { putBack: order.code, ...given };
	const done = await bookedUnder(sql, under, digest(request));
	if (done) return { booked: done, back: [] };
	const came = await sql<(Came & { number: string })[]>`
		SELECT v.order_line_id AS line, v.mark_id AS mark, i.code AS item, w.code AS at, f.code AS from, trim_scale(m.qty)::text AS qty, trim_scale(v.qty)::text AS waits,
			coalesce(k.number, i.code) AS number
		FROM order_staged v JOIN place w ON w.id = v.place_id JOIN mark_now k ON k.id = v.mark_id JOIN item i ON i.id = k.item_id
		JOIN effective_movement m ON m.order_line_id = v.order_line_id AND m.mark_id = v.mark_id AND m.to_place = v.place_id JOIN place f ON f.id = m.from_place
		WHERE v.order_id = ${order.id} ${given.marks ? sql`AND v.mark_id = ANY(${given.marks}::bigint[])` : sql``} ORDER BY v.order_line_id, k.number COLLATE natural_order, m.id DESC`;
	if (!came.length) throw new Problem(`Nothing of ${order.code} waits. Reload the page.`, 409);
	const rows = backTo(came);
	const names = new Map(came.map((c) => [c.mark, c.number]));
	const booked = await book(
		sql,
		actor,
		{
			...{ key: under, kind: 'move', at: new Date().toISOString(), reason: given.reason || null },
			...{ document: order.code, order: order.id },
			movements: rows.map((r): Movement => ({
				...{ item: r.item, mark: r.mark, qty: r.qty, from: r.at, to: r.from, orderLine: r.line, evidence: 'accepted' }
			}))
		},
		{ request, after: async (tx) => void (await notify(tx, order.code)) }
	);
	return { booked, back: rows.map((r) => ({ number: names.get(r.mark)!, to: r.from })) };
}
