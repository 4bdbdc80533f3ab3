import { transaction, type Sql } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { grouped } from '../../core/quantity/sign.ts';
import { MOST_CARDS } from '../../core/codes/card.ts';
import { MOST } from '../../core/ranges/ranges.ts';
import { contextOf, draw } from '../numbering/draw.ts';
import { inThread, type Running } from '../work/pool.ts';
import { unitOrder, type UnitOrder, type UnitState } from './units.ts';

/** A finished serial of an order, before or after it is made. */
export interface CardRow {
	serial: string;
	/** not begun, at work, waiting to be booked, or made */
	state: UnitState | 'new' | 'made';
	/** how often its card was printed, as a sheet or as a label */
	printed: number;
}

/** The serials of a production order that have or may have a card, and how often each was printed; with the order's own card. */
export async function cardsOf(sql: Sql, order: UnitOrder): Promise<{ own: number; cards: CardRow[] }> {
	const cards = await sql<(CardRow & { sheets: number; labels: number })[]>`
		SELECT n.serial, CASE WHEN m.made THEN 'made' ELSE coalesce(u.state, 'new') END AS state, coalesce(c.n, 0) + coalesce(l.n, 0) AS printed
		FROM (SELECT number AS serial FROM drawn_number WHERE line_id = ${order.made.id} AND kind = 'serial'
			UNION SELECT serial FROM unit_work WHERE order_id = ${order.id}
			UNION SELECT k.serial_no FROM run r JOIN mark k ON k.id = r.unit_mark WHERE r.order_id = ${order.id}) n
		LEFT JOIN unit_work u ON u.order_id = ${order.id} AND u.serial = n.serial
		LEFT JOIN (SELECT k.serial_no AS serial, bool_or(true) AS made FROM run r JOIN mark k ON k.id = r.unit_mark
			WHERE r.order_id = ${order.id} AND EXISTS (SELECT 1 FROM effective_movement m WHERE m.run_id = r.id AND m.role = 'make') GROUP BY 1) m ON m.serial = n.serial
		LEFT JOIN (SELECT serial, count(*)::int AS n FROM card_print WHERE order_id = ${order.id} GROUP BY 1) c ON c.serial = n.serial
		LEFT JOIN (SELECT subject, count(*)::int AS n FROM label_print WHERE subject LIKE ${`card ${order.code.replace(/[\\%_]/g, '\\$&')} %`} GROUP BY 1) l ON l.subject = 'card ' || ${order.code} || ' ' || n.serial
		ORDER BY n.serial COLLATE natural_order`;
	const [own] = await sql<{ n: number }[]>`
		SELECT (SELECT count(*)::int FROM card_print WHERE order_id = ${order.id} AND serial IS NULL)
			+ (SELECT count(*)::int FROM label_print WHERE subject = 'card ' || ${order.code}) AS n`;
	return { own: own.n, cards: [...cards] };
}

/**
 * Draws serials for an order that has none yet, or fewer than are to be made: with the first card, where they were not
 * drawn when the order was released. They wait for their line like those.
 * @param more beyond what is planned: cards for units that are made in addition
 * @returns how many were drawn
 * @throws Problem when the item has no pattern for its serials
 */
export async function drawForCards(sql: Sql, by: string, order: UnitOrder, more = 0): Promise<number> {
	return transaction(sql, async (tx) => {
		await tx`SELECT 1 FROM orders WHERE id = ${order.id} FOR UPDATE`;
		const [there] = await tx<{ n: number; pattern: { id: string; blocks: [] } | null }[]>`
			SELECT (SELECT count(*)::int FROM (SELECT number FROM drawn_number WHERE line_id = ${order.made.id} AND kind = 'serial'
					UNION SELECT serial FROM unit_work WHERE order_id = ${order.id}
					UNION SELECT k.serial_no FROM run r JOIN mark k ON k.id = r.unit_mark WHERE r.order_id = ${order.id}) n) AS n,
				(SELECT json_build_object('id', p.id::text, 'blocks', p.blocks) FROM item i JOIN number_pattern p ON p.id = i.serial_pattern_id WHERE i.id = ${order.made.itemId}) AS pattern`;
		const count = Math.max(0, Number(order.made.qty) - there.n) + more;
		if (!count) return 0;
		if (count > MOST)
			throw new Problem(`${grouped(count)} serials are more than one order draws (${grouped(MOST)}). Split the order.`);
		if (!there.pattern)
			throw new Problem(
				`${order.made.item} has no pattern that serials are drawn by. Give it one in Setup, Items, or type the serials in the order’s sheet.`
			);
		const drawn = await draw(tx, by, {
			pattern: there.pattern,
			item: { id: order.made.itemId, code: order.made.item },
			kind: 'serial',
			count,
			context: contextOf(order.made.item, order),
			order: order.id,
			line: order.made.id
		});
		return drawn.length;
	});
}

/** A production order that takes its parts unit by unit, or as one batch. @throws Problem 404 when there is none */
export async function findMade(sql: Sql, code: string): Promise<UnitOrder> {
	const order = await unitOrder(sql, code);
	if (!order) throw new Problem(`There is no production order ${code.slice(0, 60)}. Look it up in the list.`, 404);
	return order;
}

/**
 * Work cards as a PDF, a page each; each print is counted.
 * @param asked the order's own card first, where it is wanted, and whose cards
 * @param how how it is stopped, and who is told what is being done; what is stopped was not printed
 * @throws Problem when too many are asked, or a serial is none of the order's
 */
export async function printCards(
	sql: Sql,
	by: string,
	order: UnitOrder,
	asked: { own: boolean; serials: readonly string[] },
	how: Running = {}
): Promise<Uint8Array> {
	const serials = [...new Set(asked.serials)];
	if (serials.length > MOST_CARDS)
		throw new Problem(
			`${grouped(serials.length)} cards are too many for one file. Print at most ${MOST_CARDS} at a time.`
		);
	if (!asked.own && !serials.length) throw new Problem('Choose the cards to print.');
	const { cards } = await cardsOf(sql, order);
	const known = new Map(cards.map((c) => [c.serial, c]));
	const strange = serials.find((s) => !known.has(s));
	if (strange) throw new Problem(`${strange} is no unit of ${order.code}. Reload the page.`);
	const units = [...(asked.own ? [null] : []), ...serials];
	const again = Object.fromEntries(serials.map((s) => [s, known.get(s)!.printed]));
	const pdf = await inThread('cards', { order, units, again }, how);
	await sql`INSERT INTO card_print (order_id, serial, printed_by) SELECT ${order.id}::bigint, nullif(s, ''), ${by}::text
		FROM unnest(${[...(asked.own ? [''] : []), ...serials]}::text[]) s`;
	return pdf;
}
