import { z } from 'zod';
import { addDuration } from '../../core/dates/dates.ts';
import { documentKind } from '../../core/document/kinds.ts';
import { group } from '../../core/group/group.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { demand } from '../../core/people/can.ts';
import { Problem } from '../../core/problem/problem.ts';
import { isZero, type Qty } from '../../core/quantity/quantity.ts';
import type { Gone, SheetLine, SheetState, Signed } from '../../core/sheet/sheet.ts';
import { duration, id, line } from '../../core/text/input.ts';
import { dayIn, timeIn, type Zone } from '../../core/time/clock.ts';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { othersOf, type Order } from '../document/orders.ts';
import { parse } from '../parse.ts';
import { notify } from '../sheet/live.ts';

/** The most numbers of a line that its sheet shows of what has gone; beyond, it says how many there are. */
export const MOST_GONE = 100;

/** The last day of the warranty of what went; null without one. */
export const warrantyUntil = (gone: Date, zone: Zone, lasts: string | null) =>
	lasts ? addDuration(dayIn(zone, gone), lasts) : null;

/** What a customer agrees to beside the terms: each line with its quantity, price and warranty. */
export interface Agreed {
	partnerName: string | null;
	lines: {
		no: number;
		item: string;
		itemName: string;
		unit: string;
		qty: string;
		price: string;
		warranty: string | null;
	}[];
}
/** What a customer agrees to, as an order stands now. */
export const agreedOn = ({ partnerName, lines }: Order): Agreed => ({
	partnerName,
	lines: lines.map(({ no, item, itemName, unit, qty, price, warranty, itemWarranty }) => ({
		...{ no, item, itemName, unit, qty, price },
		warranty: warranty ?? itemWarranty
	}))
});

/**
 * What a sale shows beside what goes: what is agreed of its lines and what of them has gone, and who signed for what.
 * @param waits how much of a line waits to go, by its id
 */
export async function saleOf(
	sql: Db,
	order: Order,
	lines: readonly SheetLine[],
	waits: (line: string) => Qty = () => '0'
): Promise<NonNullable<SheetState['sale']>> {
	const ids = order.lines.filter((l) => !isZero(l.done)).map((l) => l.id);
	const [{ gone, signed, terms, others }] = await sql<
		{ gone: WentOff[]; signed: (Omit<Signed, 'at'> & { at: string })[]; terms: boolean; others: string[] }[]
	>`
			SELECT coalesce((SELECT json_agg(x) FROM (${goneOf(sql, ids)}) x), '[]') AS gone,
			f.terms <> '' AS terms, ${othersOf(sql, order.id)} AS others, coalesce((
				SELECT json_agg(json_build_object('id', s.id::text, 'meaning', s.meaning, 'signer', s.signer, 'at', s.at,
					'by', coalesce(n.name, s.taken_by), 'file', s.sha256, 'event', s.event_id::text) ORDER BY s.id)
				FROM signature s LEFT JOIN person n ON n.login = s.taken_by
				WHERE s.order_id = ${order.id} OR s.event_id IN (SELECT w.event_id FROM order_event w WHERE w.order_id = ${order.id}
					UNION ALL SELECT x.id FROM event x WHERE x.order_id = ${order.id})), '[]') AS signed
			FROM firm f`;
	const byLine = group([...gone], (g) => g.line);
	for (const line of lines) {
		const l = order.lines.find((x) => x.id === line.id)!;
		const mine = byLine.get(line.id) ?? [];
		line.sold = {
			...{ warranty: l.warranty, itemWarranty: l.itemWarranty, price: l.price },
			...{ numbered: l.carries !== 'none', handed: l.done, waits: waits(line.id) },
			gone: mine.map(({ line: _line, numbers: _numbers, at, ...g }) => ({
				...g,
				warrantyUntil: warrantyUntil(new Date(at), order.zone, l.warranty ?? l.itemWarranty)
			})),
			numbers: mine[0]?.numbers ?? 0
		};
	}
	return {
		customer: order.partner,
		signed: signed.map((s) => ({ ...s, at: timeIn(order.zone, new Date(s.at)) })),
		terms,
		others
	};
}

/** The bin that something (m) went from: of what waited where it was picked to (f), the one that it was picked from. */
export const binOf = (sql: Db) => sql`
	coalesce((SELECT b.code FROM effective_movement x JOIN place b ON b.id = x.from_place WHERE f.staging AND x.mark_id = m.mark_id AND x.order_line_id = m.order_line_id AND x.to_place = f.id ORDER BY x.id DESC LIMIT 1), f.code)`;

/** What came back as something (m) went in its place; null where nothing did. */
export const replacedBy = (sql: Db) => sql`
	(SELECT string_agg(coalesce(x.number, 'no number'), ', ' ORDER BY x.id) FROM movement r JOIN place c ON c.id = r.from_place AND c.code = '@customer' JOIN mark x ON x.id = r.mark_id
		WHERE r.event_id = m.event_id AND r.order_line_id = m.order_line_id)`;

/** What has gone on a line. */
type WentOff = Omit<Gone, 'warrantyUntil'> & { line: string; at: string; numbers: number };
/** What has gone on some lines and did not come back on them, as a query: the first numbers of each, with how many there are. */
const goneOf = (sql: Db, lines: readonly string[]) => sql`
	SELECT g.line::text AS line, g.mark::text AS mark, g.kind, g.number, g.of_lot AS lot, trim_scale(g.qty)::text AS qty, ${binOf(sql)} AS from, e.at, g.numbers::int AS numbers,
		${replacedBy(sql)} AS replaces
	FROM (SELECT d.line, d.mark, d.qty, d.event_id, k.kind, coalesce(k.number, i.code) AS number, k.of_lot, row_number() OVER w AS nth, count(*) OVER (PARTITION BY d.line) AS numbers
		FROM (SELECT order_line_id AS line, mark_id AS mark, sum(qty) AS qty, max(event_id) FILTER (WHERE qty > 0) AS event_id FROM line_done
			WHERE order_line_id = ANY(${[...lines]}::bigint[]) GROUP BY 1, 2 HAVING sum(qty) > 0) d
		JOIN mark_now k ON k.id = d.mark JOIN item i ON i.id = k.item_id WINDOW w AS (PARTITION BY d.line ORDER BY k.number COLLATE natural_order)) g
	JOIN event e ON e.id = g.event_id
	JOIN LATERAL (SELECT m.event_id, m.from_place, m.mark_id, m.order_line_id FROM movement m JOIN place t ON t.id = m.to_place AND t.code = '@customer' WHERE m.event_id = g.event_id AND m.mark_id = g.mark AND m.order_line_id = g.line ORDER BY m.id LIMIT 1) m ON true
	JOIN place f ON f.id = m.from_place
	WHERE g.nth <= ${MOST_GONE} ORDER BY g.line, g.nth`;

/** What is agreed of a sale or of one of its lines, as parsed. */
export const agreedInput = z.union(
	[
		z.strictObject({ partner: line(60, 0) }),
		z.strictObject({
			line: id,
			/** empty for the item's own */
			warranty: z.union([z.literal(''), duration]).optional(),
			price: line(40, 0, undefined, 'A price has at most 40 characters.').optional()
		})
	],
	'Say whom it is for, or what is agreed of a line: its warranty as P24M, its price.'
);

/**
 * Sets whom a sale is for, or the warranty and the price of a line, until it has gone.
 * @throws Problem when it is no sale, something of it has gone, or there is no such customer
 */
export async function setAgreed(sql: Sql, actor: Actor, order: Order, input: unknown): Promise<void> {
	const kind = documentKind(order.kind);
	demand(actor.role, kind.right);
	if (order.closedShort)
		throw new Problem(`${order.code} was closed before it was complete. Open it again first.`, 409);
	if (!kind.sells) throw new Problem(`${order.code} sells nothing. Only a sale has a price and a warranty of its own.`);
	const given = parse(agreedInput, input);
	await transaction(sql, async (tx) => {
		await tx`SELECT 1 FROM orders WHERE id = ${order.id} FOR UPDATE`;
		if ('partner' in given) {
			if (order.lines.some((l) => !isZero(l.done)))
				throw new Problem(
					`Some of ${order.code} has gone${order.partnerName ? ` to ${order.partnerName}` : ''}. Take it back, or undo it, first.`,
					409
				);
			const [partner] = await tx<
				{ id: string; kind: string }[]
			>`SELECT id, kind FROM partner WHERE code = ${given.partner}`;
			if (given.partner && !(partner && kind.partner?.kinds.includes(partner.kind)))
				throw new Problem([
					{
						message: `There is no customer ${given.partner}. Add it in Setup, Partners, or choose another.`,
						at: 'partner',
						code: 'document'
					}
				]);
			if (!given.partner && !kind.partner?.optional) throw new Problem('Choose the customer.');
			await tx`UPDATE orders SET partner_id = ${partner?.id ?? null} WHERE id = ${order.id}`;
		} else {
			const of = order.lines.find((l) => l.id === given.line);
			if (!of) throw new Problem('This line is not there any more. Reload the page.', 404);
			if (!isZero(of.done))
				throw new Problem(
					`Some of line ${of.no} has gone, with the warranty and the price that were agreed then.`,
					409
				);
			const { warranty = of.warranty ?? '', price = of.price } = given;
			await tx`UPDATE order_line SET warranty = ${warranty || null}, price = ${price} WHERE id = ${of.id}`;
		}
		await notify(tx, order.code);
	});
}

/**
 * The sale over the counter that a person goes on with: one of theirs that nothing is entered in, or a new one.
 * @param make makes a new one
 * @returns its code
 */
export async function nextSale(sql: Sql, by: string, place: string, make: () => Promise<string>): Promise<string> {
	const [empty] = await sql<{ code: string }[]>`
		SELECT o.code FROM orders o JOIN place p ON p.id = o.place_id WHERE o.kind = 'counter' AND o.created_by = ${by} AND p.code = ${place} AND o.closed_at IS NULL
			AND NOT EXISTS (SELECT 1 FROM order_line l WHERE l.order_id = o.id) AND NOT EXISTS (SELECT 1 FROM event e WHERE e.order_id = o.id)
			AND NOT EXISTS (SELECT 1 FROM signature s WHERE s.order_id = o.id) AND NOT EXISTS (SELECT 1 FROM noted n WHERE n.order_id = o.id) AND o.partner_id IS NULL AND o.note = ''
		ORDER BY o.id DESC LIMIT 1`;
	return empty?.code ?? make();
}
