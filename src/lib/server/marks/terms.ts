import type { Db } from '../database/connect.ts';
import { PLAIN, type Terms } from '../../core/allocation/allocate.ts';

/** What stock is taken for. */
export const PURPOSES = ['shipment', 'use', 'transfer'] as const;
/** What is asked of an item, by its id. */
export type TermsOf = (itemId: string) => Terms;
/** What stock is taken for. */
export type Purpose = (typeof PURPOSES)[number];

/**
 * What is asked of stock of some items: what is taken first there, and, where it goes to a customer, how much life must be
 * left and that nothing is older than what came last. One statement.
 * @param of the place that it is taken from, and who gets it; by their codes
 * @returns the terms of an item, by its id
 */
export async function termsFor(
	sql: Db,
	itemIds: readonly string[],
	of: { place: string | null; customer: string | null; purpose: Purpose }
): Promise<TermsOf> {
	const ships = of.purpose === 'shipment';
	const rows = await sql<(Omit<Terms, 'from'> & { id: string })[]>`
		SELECT i.id, coalesce(i.preference, s.preference, f.preference) AS preference, i.one_lot OR ${ships} AND coalesce(q.one_lot, false) AS "oneLot",
			CASE WHEN ${ships} THEN coalesce(q.days_left, i.days_left) END AS "daysLeft", ${ships} AND coalesce(q.new_only, f.new_only) AS "newOnly",
			CASE WHEN ${ships} AND q.never_older THEN (SELECT max(k.expires_on) FROM movement m JOIN mark_now k ON k.id = m.mark_id AND k.item_id = i.id JOIN place t ON t.id = m.to_place AND t.code = '@customer'
				WHERE m.event_id = (SELECT e.id FROM event e WHERE e.partner_id = q.id AND e.kind = 'shipment' AND EXISTS (SELECT 1 FROM effective_movement x JOIN mark y ON y.id = x.mark_id AND y.item_id = i.id
					WHERE x.event_id = e.id) ORDER BY e.at DESC, e.id DESC LIMIT 1)) END AS "notBefore"
		FROM firm f CROSS JOIN item i LEFT JOIN place p ON p.code = ${of.place} LEFT JOIN place s ON s.id = coalesce(p.site_id, p.id) LEFT JOIN partner q ON q.code = ${of.customer}
		WHERE i.id = ANY(${[...new Set(itemIds)]}::bigint[])`;
	const byItem = new Map(rows.map(({ id, ...terms }) => [id, { ...terms, from: null }]));
	return (item) => byItem.get(item) ?? PLAIN;
}
