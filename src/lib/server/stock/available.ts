import type { Db } from '../database/connect.ts';
import type { Stock } from '../../core/allocation/cells.ts';

export interface Standing extends Stock {
	itemId: string;
}

/**
 * Everything of some items that stands at real places, with what the open sheets of other orders hold of it.
 * @param except the order whose own sheet does not count as promised
 */
export const standing = (sql: Db, itemIds: string[], except: string, site: string | null = null) => sql<Standing[]>`
	SELECT k.id AS mark, k.item_id AS "itemId", k.kind, coalesce(k.number, i.code) AS number, l.number AS lot, k.facts, l.facts AS "lotFacts", p.code AS place,
		trim_scale(b.qty)::text AS qty, k.kind = 'serial' AS serial, coalesce(k.expires_on, l.expires_on) AS "expiresOn",
		CASE WHEN k.status = 'released' AND l.status IS NOT NULL THEN l.status ELSE k.status END AS status,
		to_char(coalesce(e.at, i.created_at), 'YYYY-MM-DD"T"HH24:MI:SS') AS since, coalesce(trim_scale(d.qty), 0)::text AS promised
	FROM balance b JOIN mark k ON k.id = b.mark_id AND k.item_id = ANY(${[...new Set(itemIds)]}::bigint[])
	JOIN place p ON p.id = b.place_id LEFT JOIN place s ON s.id = coalesce(p.site_id, p.id)
	JOIN item i ON i.id = k.item_id LEFT JOIN mark l ON l.id = k.parent_id LEFT JOIN event e ON e.id = k.event_id
	LEFT JOIN (SELECT (x.data ->> 'mark')::bigint AS mark, x.data ->> 'place' AS place, sum((x.data ->> 'qty')::numeric) AS qty FROM draft_row x
		WHERE x.data ? 'mark' AND x.order_id <> ${except} AND x.data ->> 'qty' ~ '^[0-9]+([.][0-9]+)?$' GROUP BY 1, 2) d ON d.mark = k.id AND d.place = p.code
	WHERE b.qty > 0 AND NOT b.virtual ${site ? sql`AND s.code = ${site}` : sql``}
	ORDER BY coalesce(k.expires_on, l.expires_on) NULLS LAST, e.at, k.number COLLATE natural_order`;

/** Bins of a place's site that hold an item already, the fullest first; docks are passed through, not stored at. */
export async function binsHolding(
	sql: Db,
	itemIds: string[],
	place: string | null
): Promise<(itemId: string) => string[]> {
	const bins = await sql<{ item: string; code: string }[]>`
		SELECT k.item_id AS item, p.code FROM balance b JOIN place p ON p.id = b.place_id JOIN mark k ON k.id = b.mark_id
		WHERE b.qty > 0 AND NOT b.virtual AND k.item_id = ANY(${[...new Set(itemIds)]}::bigint[]) AND p.code <> ${place ?? ''}
			AND NOT p.dock AND split_part(p.code, '/', 1) = ${(place ?? '').split('/')[0]} AND p.site_id IS NOT NULL
		GROUP BY 1, 2 ORDER BY 1, sum(b.qty) DESC, 2`;
	return (item) => bins.filter((b) => b.item === item).slice(0, 3).map((b) => b.code); // prettier-ignore
}
