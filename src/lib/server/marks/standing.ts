import type { Db } from '../database/connect.ts';
import { layPromises, type Promised } from '../../core/allocation/promises.ts';
import { HOLDING } from '../../core/document/kinds.ts';
import type { Facts } from '../../core/facts/fact.ts';
import { group } from '../../core/group/group.ts';
import type { Stock } from '../../core/allocation/cells.ts';
import { firmZone } from './zone.ts';
import type { Zone } from '../../core/time/clock.ts';

/** What is in force for a number at a place. */
export interface Standing extends Stock {
	itemId: string;
	/** the time zone of its site */
	zone: Zone;
	/** what was picked waits there until it is shipped */
	staging: boolean;
	/** code of the partner that it belongs to, where it is not ours */
	ownerCode?: string | null;
}

/** What of the stock of some items is looked at. */
export interface Looking {
	site?: string | null;
	customer?: string | null;
	marks?: readonly string[];
}

/** A row as it is read: what mostly is not comes as one thing. */
type Row = Standing & {
	rare:
		| (Pick<Standing, 'waits' | 'counting' | 'promised' | 'promisedTo' | 'lotFacts'> & {
				facts: Facts | null;
				status: string | null;
				zone: Zone | null;
				transit: boolean | null;
				staging: boolean | null;
				cameBack: boolean | null;
				picked: { qty: string | null; for: string } | null;
				owned: { code: string; name: string } | null;
		  })
		| null;
};

/**
 * Everything of some items that stands at real places, as it is in force, with what others hold of it: what is promised to
 * other orders, by a promise or by a row of their sheets; first expired first, then as it came.
 * @param except the order that it is for: what it holds itself does not count, and what is promised to it stands beside
 * @param of `site`: code of the site to look at; null for all. `customer`: who it is for, where no order says so: what was
 *   bought for it is free. `marks`: only these, where that is not all there is
 */
export async function standing(
	sql: Db,
	itemIds: readonly string[],
	except: string,
	{ site = null, customer = null, marks }: Looking = {}
): Promise<Standing[]> {
	const ids = [...new Set(itemIds)];
	const [promises, home] = await Promise.all([promisesOf(sql, ids, except, customer, marks), firmZone(sql)]);
	// A promise to an order of another site lies on the stock there first, which is not asked for otherwise.
	const only = site && !promises.length ? site : null;
	const rows = await sql<Row[]>`
		SELECT x.mark, x."itemId", x.kind, x.number, x.lot, x.place, x.qty, x."expiresOn", x.since,
			-- What mostly is not comes as one thing, or as nothing: a hundred thousand rows are read in half the time so.
			CASE WHEN num_nonnulls(x.facts, x."lotFacts", x.status, x.owned, x.promised, x.zone, x.transit, x.staging, x.waits, x.picked, x.counting, x.back) > 0
				THEN json_build_object('facts', x.facts, 'lotFacts', x."lotFacts", 'status', x.status, 'owned', x.owned, 'promised', x.promised, 'promisedTo', x."promisedTo", 'zone', x.zone,
					'transit', x.transit, 'staging', x.staging, 'waits', x.waits, 'picked', x.picked, 'counting', x.counting, 'cameBack', x.back) END AS rare
		FROM (SELECT k.id AS mark, ${ids.length > 1 ? sql`k.item_id` : sql`NULL::bigint`} AS "itemId", nullif(k.kind, 'lot') AS kind, coalesce(k.number, i.code) AS number, k.of_lot AS lot, nullif(k.facts, '{}') AS facts, nullif(k.lot_facts, '{}') AS "lotFacts", p.code AS place,
			trim_scale(b.qty)::text AS qty, k.expires_on AS "expiresOn", nullif(k.status, 'released') AS status,
			CASE WHEN k.owner IS NOT NULL THEN (SELECT json_build_object('code', q.code, 'name', q.name) FROM partner q WHERE q.code = k.owner) END AS owned,
			coalesce(e.at, i.created_at)::text AS since, trim_scale(d.qty)::text AS promised, 'promised to ' || d.orders AS "promisedTo",
			nullif(coalesce(p.zone, s.zone, f.zone), f.zone) AS zone, nullif(p.transit, false) AS transit, nullif(p.staging, false) AS staging, nullif(p.dock AND coalesce(s.bins_first, p.bins_first), false) AS waits,
			-- What waits where it was picked to, for other orders.
			CASE WHEN p.staging THEN (SELECT json_build_object('qty', trim_scale(least(sum(v.qty), b.qty))::text, 'for', 'picked for ' || string_agg(DISTINCT o.code, ', ' ORDER BY o.code))
				FROM order_staged v JOIN orders o ON o.id = v.order_id WHERE v.mark_id = k.id AND v.place_id = p.id AND v.order_id <> ${except}) END AS picked, nullif(EXISTS (SELECT 1 FROM came_back c WHERE c.mark_id = k.id), false) AS back,
			-- Somebody is counting there, and has not come to it yet.
			nullif(counts.open AND EXISTS (SELECT 1 FROM count_list l JOIN orders o ON o.id = l.order_id AND o.closed_at IS NULL WHERE l.mark_id = k.id AND l.place_id = p.id
				AND EXISTS (SELECT 1 FROM count_entry x WHERE x.order_id = l.order_id AND x.place_id = l.place_id)
				AND NOT EXISTS (SELECT 1 FROM count_entry x WHERE x.order_id = l.order_id AND x.place_id = l.place_id AND x.mark_id = l.mark_id)), false) AS counting
		FROM firm f CROSS JOIN (SELECT EXISTS (SELECT 1 FROM orders o WHERE o.kind = 'count' AND o.closed_at IS NULL) AS open) counts CROSS JOIN item i JOIN mark_now k ON k.item_id = i.id JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual
		JOIN place p ON p.id = b.place_id LEFT JOIN place s ON s.id = p.site_id LEFT JOIN event e ON e.id = k.event_id
		LEFT JOIN (SELECT CASE WHEN x.mark ~ '^[0-9]{1,18}$' THEN x.mark::bigint END AS mark, x.place, sum(x.qty) AS qty, string_agg(DISTINCT x.code, ', ' ORDER BY x.code) AS orders
			FROM held_row x WHERE x.kind = ANY(${[...HOLDING]}) AND x.order_id <> ${except} ${marks ? sql`AND x.mark = ANY(${[...marks]}::text[])` : sql``} GROUP BY 1, 2) d
			ON d.mark = k.id AND d.place = p.code
		WHERE i.id = ANY(${ids}::bigint[]) ${marks ? sql`AND k.id = ANY(${[...marks]}::bigint[])` : sql``}
			${only ? sql`AND coalesce(p.site_id, p.id) = (SELECT s.id FROM place s WHERE s.code = ${only})` : sql``}) x`;
	// Put in their order here: to be put in it there, the rows of a hundred thousand pieces wait for the last one.
	rows.sort(inTurn);
	for (const row of rows) {
		const { rare } = row;
		row.itemId ??= ids[0];
		row.kind ??= 'lot';
		row.serial = row.kind === 'serial';
		row.zone = rare?.zone ?? home;
		row.status = rare?.status ?? 'released';
		row.facts = rare?.facts ?? {};
		row.lotFacts = rare?.lotFacts ?? null;
		row.transit = !!rare?.transit;
		row.staging = !!rare?.staging;
		if (!rare) continue;
		if (rare.waits) row.waits = true;
		if (rare.counting) row.counting = true;
		if (rare.cameBack) row.cameBack = true;
		if (rare.promised) {
			row.promised = rare.promised;
			row.promisedTo = rare.promisedTo;
		}
		if (rare.owned) {
			row.owner = rare.owned.name;
			row.ownerCode = rare.owned.code;
		}
		if (rare.picked?.qty) {
			row.staged = rare.picked.qty;
			row.stagedFor = rare.picked.for;
		}
	}
	if (!promises.length) return rows;
	const others = group(
		promises.filter((p) => !p.own),
		(p) => p.mark
	);
	const mine = group(
		promises.filter((p) => p.own),
		(p) => p.mark
	);
	return layPromises(rows, others)
		.filter((s) => !site || s.place === site || s.place.startsWith(site + '/'))
		.map((s) => (mine.has(s.mark) ? { ...s, own: mine.get(s.mark) } : s));
}

/** First expired first, then as it came. */
function inTurn(a: Row, b: Row): number {
	if (a.expiresOn !== b.expiresOn) return (a.expiresOn ?? '9999') < (b.expiresOn ?? '9999') ? -1 : 1;
	if (a.since !== b.since) return a.since < b.since ? -1 : 1;
	if (a.mark !== b.mark) return a.mark.length - b.mark.length || (a.mark < b.mark ? -1 : 1);
	return a.place < b.place ? -1 : 1;
}

/**
 * What is promised of some items; of other orders' promises what their open sheets hold already is left out.
 * @param order the order, and the customer, whose own promises are told apart
 */
async function promisesOf(
	sql: Db,
	itemIds: readonly string[],
	order: string,
	customer: string | null,
	marks?: readonly string[]
): Promise<(Promised & { mark: string; own: boolean })[]> {
	// Mostly nothing of an item is promised: that is soon seen, and what is left of a promise takes longer to plan than to read.
	const open = await sql<{ mark: string }[]>`
		SELECT DISTINCT p.mark_id AS mark FROM promise p JOIN mark k ON k.id = p.mark_id WHERE p.released_at IS NULL AND p.taken < p.qty AND k.item_id = ANY(${[...itemIds]}::bigint[])
			${marks ? sql`AND p.mark_id = ANY(${[...marks]}::bigint[])` : sql``}`;
	if (!open.length) return [];
	return sql<(Promised & { mark: string; own: boolean })[]>`
	SELECT n.mark_id AS mark, n.id, n.to AS order, coalesce(n.order_line_id, 0) AS line, n.site, w.own,
		trim_scale(CASE WHEN w.own THEN n.rest ELSE greatest(n.rest - d.qty - waits.qty, 0) END)::text AS qty
	FROM promise_now n
	-- What was bought for the customer of the order is its own as well.
	CROSS JOIN LATERAL (SELECT own_promise(n, ${order}, coalesce(${customer}, (SELECT q.code FROM orders o JOIN partner q ON q.id = o.partner_id WHERE o.id = ${order}))) AS own) w
	CROSS JOIN LATERAL (SELECT coalesce(sum(x.qty), 0) AS qty FROM held_row x WHERE x.kind = ANY(${[...HOLDING]}) AND x.mark = n.mark_id::text AND x.line_id = n.order_line_id) d
	CROSS JOIN LATERAL (SELECT coalesce(sum(v.qty), 0) AS qty FROM order_staged v WHERE v.mark_id = n.mark_id AND v.order_line_id = n.order_line_id) waits
	WHERE n.mark_id = ANY(${open.map((o) => o.mark)}::bigint[]) ORDER BY n.id`;
}

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
 * Bins of a place's site that hold an item already, the fullest first; docks, staging and transit are passed through, not stored at.
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
		WHERE k.item_id = ANY(${[...new Set(itemIds)]}::bigint[]) AND p.site_id = (SELECT s.id FROM place s WHERE s.code = ${site}) AND NOT p.dock AND NOT p.staging AND NOT p.transit AND p.code <> ${place ?? ''}
		GROUP BY 1, 2 ORDER BY 1, sum(b.qty) DESC, 2`;
	const held = group([...bins], (b) => b.item);
	return (item) => (held.get(item) ?? []).slice(0, 3).map((b) => b.code);
}

/** Where some lots and serials lie on hand, by their ids: codes of bins in their order. */
export async function placesOf(sql: Db, ids: readonly string[]): Promise<Map<string, string[]>> {
	if (!ids.length) return new Map();
	const rows = await sql<{ id: string; places: string[] }[]>`
		SELECT b.mark_id AS id, array_agg(p.code ORDER BY p.code COLLATE natural_order) AS places FROM balance b JOIN place p ON p.id = b.place_id
		WHERE b.mark_id = ANY(${ids}::bigint[]) AND b.qty > 0 AND NOT b.virtual GROUP BY b.mark_id`;
	return new Map(rows.map((r) => [r.id, r.places]));
}
