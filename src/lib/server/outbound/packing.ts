import type { Sql } from '../database/connect.ts';
import { dayIn } from '../../core/time/clock.ts';
import { getOrder } from '../document/orders.ts';
import { headNow } from '../ledger/seal.ts';
import { sheetState } from '../sheet/state.ts';
import { inThread } from '../work/pool.ts';
import type { Packed } from './paper.ts';

/**
 * A printable list of what goes: the packing list of one shipment, or before that the pick list as the sheet shows it.
 * Consecutive serials stand as ranges.
 * @param event id of the shipment; null for the pick list
 * @returns the PDF; null when there is no such order or shipment
 */
export async function packingList(sql: Sql, code: string, event: string | null): Promise<Uint8Array | null> {
	const order = await getOrder(sql, code);
	if (order?.kind !== 'sale') return null;
	let packed: Packed[];
	let when = '';
	if (event) {
		const [shipped] = await sql<{ at: Date }[]>`
			SELECT at FROM event e WHERE id = ${event} AND order_id = ${order.id} AND kind = 'shipment'
				AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id)`;
		if (!shipped) return null;
		when = dayIn(order.zone, shipped.at);
		packed = await sql<Packed[]>`
			SELECT l.no, i.code AS item, i.name AS "itemName", i.unit, k.kind, coalesce(k.number, '') AS number, k.of_lot AS lot, trim_scale(m.qty)::text AS qty,
				k.expires_on AS "expiresOn", f.code AS place
			FROM movement m JOIN mark_now k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
			JOIN order_line l ON l.id = m.order_line_id JOIN place f ON f.id = m.from_place WHERE m.event_id = ${event} ORDER BY l.no, m.id`;
	} else {
		const sheet = await sheetState(sql, code);
		packed = sheet.lines.flatMap((l) =>
			l.cells.flatMap((c) =>
				c.picks.map((p) => ({
					no: l.no,
					item: l.item,
					itemName: l.itemName,
					unit: l.unit,
					kind: p.kind,
					number: p.kind === 'unmarked' ? '' : p.number,
					lot: p.lot,
					qty: p.qty,
					expiresOn: p.expiresOn,
					place: p.place
				}))
			)
		);
	}
	return inThread('packing', {
		code: order.code,
		partnerName: order.partnerName,
		packed,
		shipped: event !== null,
		on: when || order.dueOn,
		head: event ? await headNow(sql) : null
	});
}
