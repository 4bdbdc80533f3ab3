import { timeIn } from '../../core/time/clock.ts';
import type { Sql } from '../database/connect.ts';
import { getOrder } from '../document/orders.ts';
import { headNow } from '../ledger/seal.ts';
import { inThread } from '../work/pool.ts';
import type { Moved } from './repackpaper.ts';

/** @returns the record of a repacking that was booked, as a PDF; null when there is none, or it was undone */
export async function repackRecord(sql: Sql, code: string, event: string | null): Promise<Uint8Array | null> {
	const order = await getOrder(sql, code);
	if (order?.kind !== 'repack' || !event) return null;
	const [booked] = await sql<{ at: Date; by: string; reason: string | null }[]>`
		SELECT e.at, coalesce(n.name, e.recorded_by) AS by, e.reason FROM event e LEFT JOIN person n ON n.login = e.recorded_by
		WHERE e.id = ${event} AND e.order_id = ${order.id} AND e.kind = 'repack' AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id)`;
	if (!booked) return null;
	const moved = await sql<Moved[]>`
		SELECT r.code AS run, m.role, i.name AS "itemName", i.code AS item, coalesce(k.number, 'no number') AS number, trim_scale(m.qty)::text AS qty, i.unit,
			trim_scale(m.qty * i.content_qty)::text AS content, i.content_unit AS "contentUnit", CASE m.role WHEN 'use' THEN f.code ELSE t.code END AS place,
			t.code = '@scrap' AS lost, k.expires_on AS "expiresOn"
		FROM movement m JOIN run r ON r.id = m.run_id JOIN mark_now k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
		JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place WHERE m.event_id = ${event} ORDER BY m.id`;
	const paper = { code, on: timeIn(order.zone, booked.at), by: booked.by, reason: booked.reason ?? '', moved };
	return inThread('repacked', { ...paper, head: await headNow(sql) });
}
