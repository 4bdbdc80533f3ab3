import type { Db } from '../database/connect.ts';
import { group } from '../../core/group/group.ts';
import type { Stock } from '../../core/allocation/cells.ts';
import type { Zone } from '../../core/time/clock.ts';

/** What is in force for a number at a place. */
export interface Standing extends Stock {
	itemId: string;
	/** the time zone of its site */
	zone: Zone;
}

/**
 * Everything of some items that stands at real places, as it is in force, with what the open sheets of other orders hold
 * of it; first expired first.
 * @param except the order whose own sheet does not count as promised
 * @param site code of the site to look at; null for all
 */
export const standing = (sql: Db, itemIds: readonly string[], except: string, site: string | null = null) => sql<
	Standing[]
>`
	SELECT k.id AS mark, k.item_id AS "itemId", k.kind, coalesce(k.number, i.code) AS number, k.of_lot AS lot, k.facts, k.lot_facts AS "lotFacts", p.code AS place,
		trim_scale(b.qty)::text AS qty, k.kind = 'serial' AS serial, k.expires_on AS "expiresOn", k.status,
		to_char(coalesce(e.at, i.created_at), 'YYYY-MM-DD"T"HH24:MI:SS') AS since, coalesce(trim_scale(d.qty), 0)::text AS promised, d.orders AS "promisedTo",
		coalesce(p.zone, s.zone, f.zone) AS zone, p.dock AND coalesce(s.bins_first, p.bins_first) AS waits
	FROM firm f CROSS JOIN item i JOIN mark_now k ON k.item_id = i.id JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual
	JOIN place p ON p.id = b.place_id LEFT JOIN place s ON s.id = p.site_id LEFT JOIN event e ON e.id = k.event_id
	LEFT JOIN (SELECT CASE WHEN x.data ->> 'mark' ~ '^[0-9]{1,18}$' THEN (x.data ->> 'mark')::bigint END AS mark, x.data ->> 'place' AS place, sum((x.data ->> 'qty')::numeric) AS qty,
			string_agg(DISTINCT o.code, ', ' ORDER BY o.code) AS orders
		FROM draft_row x JOIN orders o ON o.id = x.order_id WHERE x.data ? 'mark' AND x.order_id <> ${except} AND x.data ->> 'qty' ~ '^[0-9]{1,13}([.][0-9]{1,6})?$' GROUP BY 1, 2) d
		ON d.mark = k.id AND d.place = p.code
	WHERE i.id = ANY(${[...new Set(itemIds)]}::bigint[])
		${site ? sql`AND coalesce(p.site_id, p.id) = (SELECT s.id FROM place s WHERE s.code = ${site})` : sql``}
	ORDER BY k.expires_on NULLS LAST, e.at, k.number COLLATE natural_order`;

/** Numbers by their ids, for what was picked and stands nowhere any more. */
export const marksById = (sql: Db, ids: readonly string[]) => sql<
	{
		id: string;
		itemId: string;
		kind: 'lot' | 'serial' | 'unmarked';
		number: string;
		lot: string | null;
		expiresOn: string | null;
	}[]
>`
	SELECT k.id, k.item_id AS "itemId", k.kind, coalesce(k.number, i.code) AS number, k.of_lot AS lot, k.expires_on AS "expiresOn"
	FROM mark_now k JOIN item i ON i.id = k.item_id WHERE k.id = ANY(${ids}::bigint[])`;

/**
 * Bins of a place's site that hold an item already, the fullest first; docks are passed through, not stored at.
 * @returns the first three of an item, by its id
 */
export async function binsHolding(
	sql: Db,
	itemIds: readonly string[],
	place: string | null
): Promise<(itemId: string) => string[]> {
	const site = (place ?? '').split('/')[0];
	const bins = await sql<{ item: string; code: string }[]>`
		SELECT k.item_id AS item, p.code FROM mark k JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual
		JOIN place p ON p.id = b.place_id
		WHERE k.item_id = ANY(${[...new Set(itemIds)]}::bigint[]) AND p.site_id = (SELECT s.id FROM place s WHERE s.code = ${site}) AND NOT p.dock AND p.code <> ${place ?? ''}
		GROUP BY 1, 2 ORDER BY 1, sum(b.qty) DESC, 2`;
	const held = group([...bins], (b) => b.item);
	return (item) => (held.get(item) ?? []).slice(0, 3).map((b) => b.code);
}
