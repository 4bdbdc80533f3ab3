import { slips } from '../../core/numbering/near.ts';
import type { Db } from '../database/connect.ts';
import type { Fragment } from '../database/fragment.ts';

/** A lot or serial whose number comes near to what was typed. */
export interface Near {
	id: string;
	kind: 'lot' | 'serial';
	number: string;
	itemName: string;
	/** what comes near, where it is not its own number: "supplier’s lot 88-1302" */
	by: string | null;
}
/** How many that are alike by their parts are looked at sign by sign. */
const LOOKED_AT = 60;

/**
 * Lots and serials whose number, earlier number or supplier's number is what was typed but for a slip or two: a sign
 * wrong, left out or swapped, O for 0, I for 1. The fewest slips come first.
 * @param items only numbers of these items
 */
export async function nearNumbers(sql: Db, typed: string, most = 8, items: readonly string[] | null = null) {
	const low = typed.trim().toLowerCase().slice(0, 60);
	if (low.length < 2) return [];
	const of = items ? sql`AND k.item_id = ANY(${[...items]}::bigint[])` : sql``;
	const alike = (column: Fragment, by: Fragment, from: Fragment) => sql`
		(SELECT k.id, k.kind, k.number, k.item_id, ${column} AS called, ${by} AS by, similarity(lower(${column}), ${low}) AS s
			FROM ${from} WHERE lower(${column}) % ${low} ${of} ORDER BY s DESC, length(${column}) LIMIT ${LOOKED_AT})`;
	const mark = sql`mark k`;
	const rows = await sql<(Near & { called: string; s: number })[]>`
		SELECT n.id, n.kind, n.number, i.name AS "itemName", n.by, n.called, n.s FROM (
			${alike(sql`k.number`, sql`NULL`, sql`mark k`)}
			UNION ALL ${alike(sql`k.supplier_lot`, sql`'supplier’s lot ' || k.supplier_lot`, mark)}
			UNION ALL ${alike(sql`k.supplier_serial`, sql`'supplier’s serial ' || k.supplier_serial`, mark)}
			UNION ALL ${alike(sql`a.number`, sql`'formerly ' || a.number`, sql`mark_alias a JOIN mark k ON k.id = a.mark_id`)}
		) n JOIN item i ON i.id = n.item_id WHERE n.kind <> 'unmarked'`;
	const seen = new Set<string>();
	return rows
		.map((r) => ({ r, n: slips(low, r.called) }))
		.sort((a, b) => a.n - b.n || b.r.s - a.r.s)
		.filter(({ r }) => !seen.has(r.id) && seen.add(r.id))
		.slice(0, most)
		.map(({ r: { called: _c, s: _s, ...near }, n }) => ({ ...near, slips: n }));
}
