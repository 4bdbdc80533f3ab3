import type { Evidence } from '../../core/ledger/evidence.ts';
import type { Db } from '../database/connect.ts';

/** Which uses of parts are asked for: of an order, in what was made, of a part. What is left out narrows nothing. */
export interface PairingsAsked {
	order?: string;
	item?: string;
	serial?: string;
	lot?: string;
	partItem?: string;
	partSerial?: string;
	partLot?: string;
}
/** One use of a part as programs see it. */
export interface Pairing {
	order: string | null;
	/** what was made; null while nothing has been */
	item: string | null;
	serial: string | null;
	/** the lot that was made, or that the serial belongs to */
	lot: string | null;
	partItem: string;
	partLot: string | null;
	partSerial: string | null;
	/** decimal text, in the part's unit: what went into the run in all */
	qty: string;
	evidence: Evidence | null;
	/** login or name of the program */
	by: string;
	/** ISO 8601 */
	at: string;
	/** it has been taken out again */
	formerly: boolean;
}

/**
 * What is in what, in the order of booking.
 * @param after where the last page ended, as it said; from the beginning without
 * @returns at most so many rows, and where the next page begins; null after the last
 */
export async function findPairings(
	sql: Db,
	asked: PairingsAsked,
	after: string | undefined,
	count: number
): Promise<{ rows: Pairing[]; next: string | null }> {
	const { order, item, serial, lot, partItem, partSerial, partLot } = asked;
	/** Numbers of an item: a serial, a lot, or a lot with its serials. */
	const marks = (of: { item?: string; serial?: string; lot?: string }) => sql`
		SELECT m.id FROM mark m LEFT JOIN mark l ON l.id = m.parent_id WHERE true
			${of.item ? sql`AND m.item_id = (SELECT x.id FROM item x WHERE x.code = ${of.item})` : sql``}
			${of.serial ? sql`AND m.serial_no = ${of.serial}` : sql``} ${of.lot ? sql`AND (m.lot_no = ${of.lot} OR l.lot_no = ${of.lot})` : sql``}`;
	const made = marks({ item, serial, lot });
	const [ofMade, ofPart] = [item || serial || lot, partItem || partSerial || partLot];
	/** The uses that may fit, gathered before they are read: walked in their order, all there are would be looked at. */
	const narrow =
		(order || ofMade || ofPart) &&
		sql`${ofPart ? sql`AND u.mark_id = ANY (ARRAY(${marks({ item: partItem, serial: partSerial, lot: partLot })}))` : sql``}
			${
				order
					? sql`AND u.run_id = ANY (ARRAY(SELECT x.id FROM run x JOIN orders y ON y.id = x.order_id WHERE y.code = ${order}
						UNION SELECT m.run_id FROM event x JOIN orders y ON y.id = x.order_id JOIN movement m ON m.event_id = x.id WHERE y.code = ${order}))`
					: sql``
			}
			${
				ofMade
					? sql`AND u.run_id = ANY (ARRAY(SELECT x.id FROM run x WHERE x.unit_mark = ANY (ARRAY(${made}))
						UNION SELECT m.run_id FROM movement m WHERE m.role = 'make' AND m.mark_id = ANY (ARRAY(${made}))))`
					: sql``
			}`;
	const [use, number] = (after ?? '0.0').split('.');
	const got = await sql<(Pairing & { next: string })[]>`
		SELECT p.id || '.' || coalesce(p.made_id, 0) AS next, o.code AS order, g.code AS item, f.serial_no AS serial, coalesce(f.lot_no, f.of_lot) AS lot,
			i.code AS "partItem", coalesce(k.lot_no, k.of_lot) AS "partLot", k.serial_no AS "partSerial", trim_scale(p.qty)::text AS qty, p.evidence,
			e.recorded_by AS by, to_char(p.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS at, p.formerly
		FROM pairing p JOIN mark_now k ON k.id = p.part_id JOIN item i ON i.id = k.item_id LEFT JOIN mark_now f ON f.id = p.made_id LEFT JOIN item g ON g.id = f.item_id
			JOIN run r ON r.id = p.run_id JOIN event e ON e.id = p.event_id LEFT JOIN orders o ON o.id = coalesce(r.order_id, e.order_id)
		WHERE (p.id, coalesce(p.made_id, 0)) > (${use}::bigint, ${number}::bigint)
			${narrow ? sql`AND p.id = ANY (ARRAY(SELECT u.id FROM movement u WHERE u.role = 'use' AND u.id >= ${use}::bigint ${narrow}))` : sql``}
			${order ? sql`AND o.code = ${order}` : sql``} ${ofMade ? sql`AND p.made_id IN (${made})` : sql``}
		ORDER BY p.id, coalesce(p.made_id, 0) LIMIT ${count + 1}`;
	const rows = got.slice(0, count);
	return {
		rows: rows.map(({ next: _next, ...row }) => row),
		next: got.length > count ? rows[rows.length - 1].next : null
	};
}
