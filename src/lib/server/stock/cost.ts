import type { Db } from '../database/connect.ts';
import { GROUNDS, sayGround, type Proposal } from '../../core/cost/cost.ts';
import { showDay } from '../../core/dates/dates.ts';
import { dayIn } from '../../core/time/clock.ts';
import { firmZone } from '../marks/zone.ts';

/** What a cost is asked of: an item, by its id, and its number where it has one. */
export interface Costed {
	itemId: string;
	lot: string;
	serial: string;
}

/**
 * What one of each would cost: by what was noted last as it came in, of the number itself, else of its lot, else of any
 * number of its item. What was undone does not count. One statement, whatever the count.
 * @returns in the order asked; null where nothing is noted
 */
export async function proposeCosts(sql: Db, wanted: readonly Costed[]): Promise<(Proposal | null)[]> {
	if (!wanted.length) return [];
	const [rows, zone] = await Promise.all([
		sql<{ n: number; ground: number; cost: string; document: string; at: Date }[]>`
			SELECT w.n::int, x.ground, trim_scale(x.unit_cost)::text AS cost, coalesce(e.document, e.kind) AS document, e.at
			FROM unnest(${wanted.map((w) => w.itemId)}::bigint[], ${wanted.map((w) => w.lot)}::text[], ${wanted.map((w) => w.serial)}::text[]) WITH ORDINALITY w(item, lot, serial, n)
			LEFT JOIN mark s ON w.serial <> '' AND s.item_id = w.item AND s.kind = 'serial' AND s.serial_no = w.serial
			LEFT JOIN mark l ON s.id IS NULL AND w.lot <> '' AND l.item_id = w.item AND l.kind = 'lot' AND l.lot_no = w.lot
			CROSS JOIN LATERAL (
				(SELECT 0 AS ground, m.unit_cost, m.event_id FROM effective_movement m JOIN place f ON f.id = m.from_place AND f.virtual
					WHERE m.mark_id = coalesce(s.id, CASE WHEN w.serial = '' THEN l.id END) AND m.unit_cost IS NOT NULL ORDER BY m.at DESC, m.id DESC LIMIT 1)
				UNION ALL (SELECT 1, m.unit_cost, m.event_id FROM effective_movement m JOIN place f ON f.id = m.from_place AND f.virtual
					WHERE w.serial <> '' AND m.mark_id IN (SELECT coalesce(s.parent_id, l.id) UNION ALL SELECT c.id FROM mark c WHERE c.parent_id = coalesce(s.parent_id, l.id))
						AND m.unit_cost IS NOT NULL ORDER BY m.at DESC, m.id DESC LIMIT 1)
				UNION ALL (SELECT 2, m.unit_cost, m.event_id FROM effective_movement m JOIN mark k ON k.id = m.mark_id AND k.item_id = w.item JOIN place f ON f.id = m.from_place AND f.virtual
					WHERE m.unit_cost IS NOT NULL ORDER BY m.at DESC, m.id DESC LIMIT 1)
				ORDER BY 1 LIMIT 1) x JOIN event e ON e.id = x.event_id`,
		firmZone(sql)
	]);
	const found = new Map(rows.map((r) => [r.n, r]));
	return wanted.map((_w, i) => {
		const r = found.get(i + 1);
		return r ? { cost: r.cost, ground: sayGround(GROUNDS[r.ground], r.document, showDay(dayIn(zone, r.at))) } : null;
	});
}
