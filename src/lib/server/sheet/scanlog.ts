import type { Db } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import type { ScanEntry } from '../../core/sheet/sheet.ts';
import { TIME_ONLY, timeIn, type Zone } from '../../core/time/clock.ts';
import type { RowData } from './drafts.ts';
import { telling } from './live.ts';

/** One scan as it is kept: what it said, what it did. */
export interface Logged {
	id: string;
	text: string;
	taken: boolean;
	said: string;
	row: { id: string; before: RowData | null; after: RowData } | null;
}

/** Keeps what a scan said and did, and tells everyone who has its order open; one that is kept already stays as it is. */
export const logScan = (sql: Db, by: string, order: { id: string; code: string }, s: Logged) => sql`
	WITH kept AS (INSERT INTO scan (id, order_id, text, taken, said, row_id, before, after, scanned_by)
	VALUES (${s.id}, ${order.id}, ${s.text}, ${s.taken}, ${s.said}, ${s.row?.id ?? null},
		${s.row?.before ? JSON.stringify(s.row.before) : null}::text::jsonb, ${s.row ? JSON.stringify(s.row.after) : null}::text::jsonb, ${by}) ON CONFLICT DO NOTHING)
	SELECT ${telling(sql, order.code)}`;

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

/** The latest scans of an order, newest first: as a query. */
export const scansOf = (sql: Db, order: { id: string }) => sql`
	SELECT s.id, s.text, s.taken, s.said, s.undone_at IS NOT NULL AS undone,
		s.row_id IS NOT NULL AND s.undone_at IS NULL AS "canUndo", coalesce(p.name, s.scanned_by) AS by, s.scanned_at AS at
	FROM scan s LEFT JOIN person p ON p.login = s.scanned_by WHERE s.order_id = ${order.id} ORDER BY s.scanned_at DESC LIMIT 30`;
/** A scan as it is read: its moment as a date, or as JSON gives it. */
type ReadScan = Omit<ScanEntry, 'at'> & { at: Date | string };
/** Scans with their times at a site. */
export const scansAt = (zone: Zone, rows: readonly ReadScan[]): ScanEntry[] =>
	rows.map((r) => ({ ...r, at: timeIn(zone, new Date(r.at), TIME_ONLY) }));
/** The latest scans of an order, newest first. */
export const scanLog = async (sql: Db, order: { id: string; zone: Zone }): Promise<ScanEntry[]> =>
	scansAt(order.zone, await sql<ReadScan[]>`${scansOf(sql, order)}`);
