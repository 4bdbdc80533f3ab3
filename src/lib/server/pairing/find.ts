import type { Evidence } from '../../core/ledger/evidence.ts';
import type { Db } from '../database/connect.ts';
import { PAIRINGS, usesFor, usesIn, usesOf } from './uses.ts';

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
 * Parts in units, in the order of booking.
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
	const narrowed = [
		// An item by itself fits so much that walking the uses in their order finds a page sooner.
		...(serial || lot ? [sql`p.id = ANY (ARRAY(${usesIn(sql, sql`ARRAY(${made})`)})) AND p.made_id IN (${made})`] : []),
		...(item ? [sql`g.code = ${item}`] : []),
		...(partSerial || partLot
			? [
					sql`p.id = ANY (ARRAY(${usesOf(sql, sql`ARRAY(${marks({ item: partItem, serial: partSerial, lot: partLot })})`)}))`
				]
			: []),
		...(partItem ? [sql`i.code = ${partItem}`] : []),
		...(order ? [sql`p.id = ANY (ARRAY(${usesFor(sql, sql`y.code = ${order}`)})) AND o.code = ${order}`] : [])
	].reduce((all, one) => sql`${all} AND ${one}`, sql``);
	const [use, number] = (after ?? '0.0').split('.');
	const got = await sql<(Pairing & { next: string })[]>`
		SELECT p.id || '.' || coalesce(p.made_id, 0) AS next, o.code AS order, g.code AS item, f.serial_no AS serial, coalesce(f.lot_no, f.of_lot) AS lot,
			i.code AS "partItem", coalesce(k.lot_no, k.of_lot) AS "partLot", k.serial_no AS "partSerial", trim_scale(p.qty)::text AS qty, p.evidence,
			e.recorded_by AS by, to_char(p.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS at, p.formerly
		FROM ${sql.unsafe(PAIRINGS)} WHERE (p.id, coalesce(p.made_id, 0)) > (${use}::bigint, ${number}::bigint) ${narrowed}
		ORDER BY p.id, coalesce(p.made_id, 0) LIMIT ${count + 1}`;
	const rows = got.slice(0, count);
	return {
		rows: rows.map(({ next: _next, ...row }) => row),
		next: got.length > count ? rows[rows.length - 1].next : null
	};
}
