import type { Db } from '../database/connect.ts';
import { group } from '../../core/group/group.ts';
import { div, least, mul, rest, sub, total } from '../../core/quantity/quantity.ts';
import type { LeftOver } from '../../core/sheet/sheet.ts';
import type { Order } from '../document/orders.ts';

/** What is still in a batch that is not closed, the last that went in first. */
export const inBatch = (sql: Db, order: string) => sql<
	(Omit<LeftOver, 'over'> & { run: string; item: string; lineId: string | null })[]
>`
	SELECT k.id AS mark, k.kind, coalesce(k.number, '') AS number, i.code AS item, i.name AS "itemName", i.unit, i.decimals, r.code AS run,
		trim_scale(sum(CASE m.role WHEN 'use' THEN m.qty ELSE -m.qty END))::text AS qty,
		(array_agg(p.code ORDER BY m.at DESC, m.id DESC) FILTER (WHERE m.role = 'use'))[1] AS place,
		(SELECT l.id FROM order_line l WHERE l.order_id = r.order_id AND l.role = 'component' AND l.item_id = i.id ORDER BY l.no LIMIT 1) AS "lineId"
	FROM run r JOIN effective_movement m ON m.run_id = r.id AND m.role IN ('use', 'detach') JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
	JOIN place p ON p.id = m.from_place
	WHERE r.order_id = ${order} AND r.unit_mark IS NULL
		AND NOT EXISTS (SELECT 1 FROM run_closing c WHERE c.run_id = r.id AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = c.event_id))
	GROUP BY r.id, k.id, i.id HAVING sum(CASE m.role WHEN 'use' THEN m.qty ELSE -m.qty END) > 0 ORDER BY max(m.id) DESC`;

/**
 * What could be given back of a batch: everything in it, and of each how much of it is more than what came out takes by the
 * parts list, the last that went in first.
 */
export async function leftOver(sql: Db, order: Order): Promise<LeftOver[]> {
	const rows = await inBatch(sql, order.id);
	if (!rows.length) return [];
	const out = order.lines.find((l) => l.role === 'output')!;
	const byLine = group(rows, (r) => r.lineId ?? '');
	const over = new Map<string, string>();
	for (const l of order.lines.filter((x) => x.role === 'component')) {
		const mine = byLine.get(l.id) ?? [];
		let more = rest(total(mine.map((m) => m.qty)), mul(div(l.qty, out.qty), out.done));
		for (const m of mine) {
			const back = least(more, m.qty);
			over.set(m.mark, back);
			more = sub(more, back);
		}
	}
	return rows.map(({ run: _run, item: _item, lineId: _line, ...r }) => ({ ...r, over: over.get(r.mark) ?? '0' }));
}
