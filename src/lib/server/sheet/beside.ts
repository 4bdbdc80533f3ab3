import type { ScanEntry, SheetEvent, SheetState } from '../../core/sheet/sheet.ts';
import { timeIn } from '../../core/time/clock.ts';
import type { Db } from '../database/connect.ts';
import { eventsOf, type Order } from '../document/orders.ts';
import { scansAt, scansOf } from './scanlog.ts';

/** What a sheet shows beside its lines: what was booked on its order, and scanned. One statement; times are those of its site. */
export async function besideSheet(
	sql: Db,
	order: Pick<Order, 'id' | 'zone'>
): Promise<Pick<SheetState, 'events' | 'scans'>> {
	const [{ events, scans }] = await sql<{ events: SheetEvent[]; scans: ScanEntry[] }[]>`
		SELECT coalesce((SELECT json_agg(b) FROM (${eventsOf(sql, order)}) b), '[]') AS events,
			coalesce((SELECT json_agg(c) FROM (${scansOf(sql, order)}) c), '[]') AS scans`;
	return {
		events: events.map((e) => ({ ...e, at: timeIn(order.zone, new Date(e.at)) })),
		scans: scansAt(order.zone, scans)
	};
}
