import type { Db } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import type { ScanEntry } from '../../core/sheet/sheet.ts';
import { TIME_ONLY, timeIn } from '../../core/time/clock.ts';
import type { RowData } from './drafts.ts';

/** One scan as it is kept: what it said, what it did. */
export interface Logged {
	id: string;
	text: string;
	taken: boolean;
	said: string;
	row: { id: string; before: RowData | null; after: RowData } | null;
}

/** Keeps what a scan said and did; one that is kept already stays as it is. */
export const logScan = (sql: Db, by: string, orderId: string, s: Logged) => sql`
	INSERT INTO scan (id, order_id, text, taken, said, row_id, before, after, scanned_by)
	VALUES (${s.id}, ${orderId}, ${s.text}, ${s.taken}, ${s.said}, ${s.row?.id ?? null},
		${s.row?.before ? JSON.stringify(s.row.before) : null}::text::jsonb, ${s.row ? JSON.stringify(s.row.after) : null}::text::jsonb, ${by}) ON CONFLICT DO NOTHING`;

/**
 * What became of a scan that is known; null when it is new.
 * @throws Problem 409 when the id stands for another scan
 */
export async function knownScan(
	sql: Db,
	orderId: string,
	scan: { id: string; text: string }
): Promise<{ taken: boolean; said: string } | null> {
	const [known] = await sql<{ taken: boolean; said: string; text: string; order: string }[]>`
		SELECT taken, said, text, order_id AS order FROM scan WHERE id = ${scan.id}`;
	if (!known) return null;
	if (known.order !== orderId || known.text !== scan.text)
		throw new Problem('This scan’s id stands for another scan already. Scan it again.', 409);
	return { taken: known.taken, said: known.said };
}

/** The latest scans of an order, newest first. */
export async function scanLog(sql: Db, order: { id: string; zone: string }): Promise<ScanEntry[]> {
	const rows = await sql<(Omit<ScanEntry, 'at'> & { at: Date })[]>`
		SELECT s.id, s.text, s.taken, s.said, s.undone_at IS NOT NULL AS undone, s.row_id IS NOT NULL AND s.undone_at IS NULL AS "canUndo",
			coalesce(p.name, s.scanned_by) AS by, s.scanned_at AS at
		FROM scan s LEFT JOIN person p ON p.login = s.scanned_by WHERE s.order_id = ${order.id} ORDER BY s.scanned_at DESC LIMIT 30`;
	return rows.map((r) => ({ ...r, at: timeIn(order.zone, r.at, TIME_ONLY) }));
}
