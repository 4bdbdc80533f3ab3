import { z } from 'zod';
import type { Db, Sql } from '../database/connect.ts';
import { documentKind, HOLDING } from '../../core/document/kinds.ts';
import type { Day } from '../../core/dates/dates.ts';
import { shortOf, type Need, type Short } from '../../core/parts/shortage.ts';
import { demand } from '../../core/people/can.ts';
import { Problem } from '../../core/problem/problem.ts';
import { line } from '../../core/text/input.ts';
import { createDocuments, MOST_LINES } from '../document/create.ts';
import { parse } from '../parse.ts';

/**
 * What open production orders still need of each part, against what is free and what comes by then.
 * @param of one order by its code, or null for all that are due by the day
 * @param until the last day that counts
 * @returns items that are needed, those that are short first
 */
export async function shortage(sql: Db, of: string | null, until: Day): Promise<Short[]> {
	const needs = await sql<Need[]>`
		WITH asking AS (SELECT o.id, o.code, o.due_on FROM orders o WHERE o.kind = 'production' AND o.closed_at IS NULL
			AND ${of ? sql`o.code = ${of}` : sql`(o.due_on IS NULL OR o.due_on <= ${until})`}),
		need AS (SELECT l.item_id, a.code, a.due_on, sum(l.qty - d.done) AS qty FROM asking a JOIN order_line l ON l.order_id = a.id AND l.role = 'component'
			CROSS JOIN LATERAL (SELECT coalesce(sum(CASE m.role WHEN 'detach' THEN -m.qty ELSE m.qty END), 0) AS done FROM effective_movement m WHERE m.order_line_id = l.id) d
			WHERE l.qty > d.done GROUP BY 1, 2, 3)
		SELECT i.code AS item, i.name AS "itemName", i.unit, i.decimals, EXISTS (SELECT 1 FROM part p WHERE p.item_id = i.id) AS made,
			(SELECT json_agg(json_build_object('code', n.code, 'qty', trim_scale(n.qty)::text, 'dueOn', n.due_on) ORDER BY n.due_on NULLS LAST, n.code) FROM need n WHERE n.item_id = i.id) AS orders,
			trim_scale(greatest(coalesce(f.qty, 0) - coalesce(h.qty, 0), 0))::text AS free, trim_scale(coalesce(e.qty, 0))::text AS expected, s.code AS supplier
		FROM item i
		LEFT JOIN LATERAL (SELECT sum(b.qty) AS qty FROM mark_now k JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual
			WHERE k.item_id = i.id AND k.status = 'released' AND k.owner IS NULL AND (k.expires_on IS NULL OR k.expires_on >= ${until})) f ON true
		-- What the sheets of other open orders have taken of it by hand.
		LEFT JOIN LATERAL (SELECT sum(x.qty) AS qty FROM held_row x JOIN order_line l ON l.id = x.line_id AND l.item_id = i.id WHERE x.kind = ANY(${[...HOLDING]}) AND x.order_id NOT IN (SELECT id FROM asking)) h ON true
		LEFT JOIN LATERAL (SELECT sum(greatest(l.qty - (SELECT coalesce(sum(m.qty), 0) FROM effective_movement m WHERE m.order_line_id = l.id), 0)) AS qty
			FROM order_line l JOIN orders o ON o.id = l.order_id AND o.closed_at IS NULL AND (o.due_on IS NULL OR o.due_on <= ${until})
			WHERE l.item_id = i.id AND (o.kind = 'purchase' AND NOT o.theirs OR o.kind IN ('production', 'repack') AND l.role = 'output')) e ON true
		LEFT JOIN LATERAL (SELECT p.code FROM order_line l JOIN orders o ON o.id = l.order_id AND o.kind = 'purchase' JOIN partner p ON p.id = o.partner_id
			WHERE l.item_id = i.id ORDER BY o.id DESC LIMIT 1) s ON true
		WHERE i.id IN (SELECT item_id FROM need) ORDER BY i.code`;
	return shortOf(needs).sort((a, b) => Number(a.missing === '0') - Number(b.missing === '0'));
}

/** What is to be bought, as parsed. */
export const buyInput = z.strictObject({
	place: line(45, 1, 'Choose the place where it arrives.'),
	dueOn: line(40, 0),
	lines: z
		.array(
			z.strictObject({
				item: line(60),
				qty: line(40, 1, 'Type how much.'),
				supplier: line(60, 1, 'Choose the supplier.')
			})
		)
		.min(1, 'Nothing is chosen to be bought.')
		.max(MOST_LINES)
});

/**
 * Makes the purchase orders for what is missing, one for each supplier; all of them, or none.
 * @returns their codes
 * @throws Problem naming each faulty line
 */
export async function buyMissing(sql: Sql, who: { name: string; role: string }, input: unknown): Promise<string[]> {
	demand(who.role, documentKind('purchase').create);
	const given = parse(buyInput, input);
	const twice = given.lines.find((l, n) => given.lines.findIndex((x) => x.item === l.item) < n);
	if (twice) throw new Problem(`${twice.item} stands here twice. Reload the page.`);
	const suppliers = [...new Set(given.lines.map((l) => l.supplier))];
	return createDocuments(
		sql,
		who.name,
		suppliers.map((partner) => ({
			kind: 'purchase',
			partner,
			place: given.place,
			dueOn: given.dueOn || null,
			lines: given.lines.filter((l) => l.supplier === partner).map(({ item, qty }) => ({ item, qty }))
		}))
	);
}
