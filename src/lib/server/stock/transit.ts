import { z } from 'zod';
import type { Sql } from '../database/connect.ts';
import type { Actor, EventInput } from '../../core/ledger/input.ts';
import { demand } from '../../core/people/can.ts';
import { Problem } from '../../core/problem/problem.ts';
import { key, text } from '../../core/text/input.ts';
import { settleOrder } from '../document/orders.ts';
import { book, type Booked } from '../ledger/book.ts';
import { parse } from '../parse.ts';
import type { Movement } from '../sheet/lines.ts';
import { notify } from '../sheet/live.ts';
import { findOpenOrder } from '../sheet/state.ts';
import { transitPlace } from './transfer.ts';

/** What becomes of what did not arrive, as parsed. */
export const transitInput = z.strictObject({
	key,
	became: z.enum(['back', 'lost'], 'Say whether it is back where it came from, or lost.'),
	reason: text(1000, 1, 'Say why, in one line. It is kept in the ledger.')
});

/**
 * Ends what is in transit of a transfer and will not arrive: it is back where it came from, or lost and adjusted away.
 * @throws Problem when nothing is in transit, or the person may not
 */
export async function endTransit(sql: Sql, actor: Actor, code: string, input: unknown): Promise<Booked> {
	const given = parse(transitInput, input);
	demand(actor.role, given.became === 'lost' ? 'adjust stock' : 'move stock');
	const order = await findOpenOrder(sql, code, 'transfer');
	const transit = await transitPlace(sql);
	const rows = await sql<{ line: string; mark: string; qty: string; item: string; from: string }[]>`
		SELECT t.order_line_id AS line, t.mark_id AS mark, trim_scale(t.qty)::text AS qty, i.code AS item, p.code AS from
		FROM order_transit t JOIN mark k ON k.id = t.mark_id JOIN item i ON i.id = k.item_id
		-- Where it left last.
		CROSS JOIN LATERAL (SELECT m.from_place FROM effective_movement m JOIN place w ON w.id = m.to_place AND w.transit
			WHERE m.mark_id = t.mark_id AND m.order_line_id = t.order_line_id ORDER BY m.id DESC LIMIT 1) m JOIN place p ON p.id = m.from_place
		WHERE t.order_id = ${order.id} ORDER BY t.order_line_id, t.mark_id`;
	if (!rows.length) throw new Problem(`Nothing of ${order.code} is in transit. Reload the page.`, 409);
	const movements = rows.map((r): Movement => ({
		...{ item: r.item, mark: r.mark, qty: r.qty, from: transit, orderLine: r.line, evidence: 'entered' },
		to: given.became === 'lost' ? '@adjust' : r.from
	}));
	const event: EventInput = {
		...{ key: given.key, kind: given.became === 'lost' ? 'adjust' : 'transfer', at: new Date().toISOString() },
		...{ reason: given.reason, document: order.code, order: order.id, movements }
	};
	return book(sql, actor, event, {
		request: { order: order.code, ...given },
		after: async (tx) => {
			await settleOrder(tx, order.id);
			await notify(tx, order.code);
		}
	});
}
