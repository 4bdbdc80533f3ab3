import type { Db } from '../database/connect.ts';
import { layPromises, type Promised } from '../../core/allocation/promises.ts';
import { HOLDING } from '../../core/document/kinds.ts';
import type { Facts } from '../../core/facts/fact.ts';
import { group } from '../../core/group/group.ts';
import type { Qty } from '../../core/quantity/quantity.ts';
import { stockPlaces, type StockPlace } from './places.ts';
import type { Stock } from '../../core/allocation/cells.ts';
import type { Zone } from '../../core/time/clock.ts';

/** What is in force for a number at a place. */
export interface OnHand extends Stock {
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

/** What mostly is not, of a row that has some of it. */
interface Rare extends Pick<OnHand, 'counting' | 'cameBack'> {
	facts: Facts | null;
	lotFacts: Facts | null;
	status: string | null;
	picked: { qty: string | null; for: string } | null;
	owned: { code: string; name: string } | null;
}

/** A row as it is read: of what many share only the id. */
interface Row extends Pick<OnHand, 'mark' | 'lot' | 'qty' | 'expiresOn'> {
	itemId: string | null;
	kind: 'serial' | 'unmarked' | null;
	number: string | null;
	place: string;
	event: string | null;
	rare: Rare | null;
}

/**
 * Everything of some items that stands at real places, as it is in force, with what others hold of it: what is promised to
 * other orders, by a promise or by a row of their sheets; first expired first, then as it came.
 * @param except the order that it is for: what it holds itself does not count, and what is promised to it stands beside
 * @param of `site`: code of the site to look at; null for all. `customer`: who it is for, where no order says so: what was
 *   bought for it is free. `marks`: only these, where that is not all there is
 */
export async function onHand(
	sql: Db,
	itemIds: readonly string[],
	except: string,
	{ site = null, customer = null, marks }: Looking = {}
): Promise<OnHand[]> {
	const ids = [...new Set(itemIds)];
	const about = await aboutStock(sql, ids, except, marks);
	const places = await stockPlaces(sql, about.version);
	const promises = about.promised.length ? await promisesOf(sql, about.promised, except, customer) : [];
	// A promise to an order of another site lies on the stock there first, which is not asked for otherwise.
	const only =
		site && !promises.length ? [...places.byId.values()].flatMap((p) => (p.site === site ? p.id : [])) : null;
	// What there is none of in the firm is not asked of each row.
	const picked = places.stages
		? sql`(SELECT json_build_object('qty', trim_scale(least(sum(v.qty), b.qty))::text,
				'for', 'picked for ' || string_agg(DISTINCT o.code, ', ' ORDER BY o.code))
			FROM place p JOIN order_staged v ON v.mark_id = k.id AND v.place_id = p.id AND v.order_id <> ${except}
				JOIN orders o ON o.id = v.order_id
			WHERE p.staging AND p.id = b.place_id HAVING count(*) > 0)`
		: sql`NULL::json`;
	// Somebody is counting there, and has not come to it yet.
	const counting = about.counting
		? sql`nullif(EXISTS (SELECT 1 FROM count_list l JOIN orders o ON o.id = l.order_id AND o.closed_at IS NULL
			WHERE l.mark_id = k.id AND l.place_id = b.place_id
				AND EXISTS (SELECT 1 FROM count_entry x WHERE x.order_id = l.order_id AND x.place_id = l.place_id)
				AND NOT EXISTS (SELECT 1 FROM count_entry x
					WHERE x.order_id = l.order_id AND x.place_id = l.place_id AND x.mark_id = l.mark_id)), false)`
		: sql`NULL::boolean`;
	const back = about.returns
		? sql`nullif(EXISTS (SELECT 1 FROM came_back c WHERE c.mark_id = k.id), false)`
		: sql`NULL::boolean`;
	// From the marks to where each lies, one by one: of a site's places, where most of the firm's stock may lie, few hold any.
	const rows = await sql<Row[]>`
		SELECT x.mark, x.item AS "itemId", x.kind, x.number, x.lot, x.place, x.qty, x.expires AS "expiresOn", x.event,
			-- What mostly is not comes as one thing, or as nothing: a hundred thousand rows are read in half the time so.
			CASE WHEN num_nonnulls(x.facts, x.lot_facts, x.status, x.owned, x.picked, x.counting, x.back) > 0
				THEN json_build_object('facts', x.facts, 'lotFacts', x.lot_facts, 'status', x.status, 'owned', x.owned,
					'picked', x.picked, 'counting', x.counting, 'cameBack', x.back) END AS rare
		FROM (SELECT k.id AS mark, ${ids.length > 1 ? sql`k.item_id` : sql`NULL::bigint`} AS item, nullif(k.kind, 'lot') AS kind,
				k.number, k.of_lot AS lot, nullif(k.facts, '{}') AS facts, nullif(k.lot_facts, '{}') AS lot_facts,
				b.place_id AS place, trim_scale(b.qty)::text AS qty, k.expires_on AS expires, nullif(k.status, 'released') AS status,
				CASE WHEN k.owner IS NOT NULL
					THEN (SELECT json_build_object('code', q.code, 'name', q.name) FROM partner q WHERE q.code = k.owner) END AS owned,
				k.event_id AS event, ${picked} AS picked, ${back} AS back, ${counting} AS counting
			FROM mark_now k CROSS JOIN LATERAL (SELECT y.place_id, y.qty FROM balance y
				WHERE y.mark_id = k.id AND y.qty > 0 AND NOT y.virtual OFFSET 0) b
			WHERE k.item_id = ANY(${ids}::bigint[]) ${marks ? sql`AND k.id = ANY(${[...marks]}::bigint[])` : sql``}
				${only ? sql`AND b.place_id = ANY(${only}::bigint[])` : sql``}) x`;
	// A place that was made meanwhile: all of it is read once more, with the places of now.
	if (rows.some((r) => !places.byId.has(r.place))) return onHand(sql, itemIds, except, { site, customer, marks });
	const since = await eventTimes(sql, rows);
	const held = new Map(about.held.map((h) => [`${h.mark} ${h.place}`, h]));
	const stock = rows.map((row): OnHand => {
		const itemId = row.itemId ?? ids[0];
		const lying = lyingAt(row, itemId, about.items[itemId], places.byId.get(row.place)!, since);
		const by = held.size ? held.get(`${lying.mark} ${lying.place}`) : undefined;
		if (by) {
			lying.promised = by.qty;
			lying.promisedTo = `promised to ${by.orders}`;
		}
		return row.rare ? withRare(lying, row.rare) : lying;
	});
	// Put in their order here: to be put in it there, the rows of a hundred thousand pieces wait for the last one.
	stock.sort(inTurn);
	if (!promises.length) return stock;
	const others = group(
		promises.filter((p) => !p.own),
		(p) => p.mark
	);
	const mine = group(
		promises.filter((p) => p.own),
		(p) => p.mark
	);
	return layPromises(stock, others)
		.filter((s) => !site || s.place === site || s.place.startsWith(site + '/'))
		.map((s) => (mine.has(s.mark) ? { ...s, own: mine.get(s.mark) } : s));
}

/** When the events happened that rows came by, by their ids: mostly few for all of them. */
async function eventTimes(sql: Db, rows: readonly Row[]): Promise<ReadonlyMap<string, string>> {
	const ids = [...new Set(rows.flatMap((r) => r.event ?? []))];
	if (!ids.length) return new Map();
	const events = await sql<{ id: string; at: string }[]>`
		SELECT e.id, e.at::text AS at FROM event e WHERE e.id = ANY(${ids}::bigint[])`;
	return new Map(events.map((e) => [e.id, e.at]));
}
/** A row as it lies at its place. Written out: a hundred thousand of them are made at once. */
const lyingAt = (
	row: Row,
	itemId: string,
	item: { code: string; created: string },
	place: StockPlace,
	since: ReadonlyMap<string, string>
): OnHand => ({
	mark: row.mark,
	itemId,
	kind: row.kind ?? 'lot',
	serial: row.kind === 'serial',
	number: row.number ?? item.code,
	lot: row.lot,
	place: place.code,
	qty: row.qty,
	expiresOn: row.expiresOn,
	since: (row.event && since.get(row.event)) ?? item.created,
	zone: place.zone,
	status: row.rare?.status ?? 'released',
	transit: place.transit,
	staging: place.staging,
	facts: row.rare?.facts ?? NO_FACTS,
	lotFacts: row.rare?.lotFacts ?? null,
	waits: place.waits || undefined
});
function withRare(lying: OnHand, rare: Rare): OnHand {
	if (rare.counting) lying.counting = true;
	if (rare.cameBack) lying.cameBack = true;
	if (rare.owned) {
		lying.owner = rare.owned.name;
		lying.ownerCode = rare.owned.code;
	}
	if (rare.picked?.qty) {
		lying.staged = rare.picked.qty;
		lying.stagedFor = rare.picked.for;
	}
	return lying;
}
/** Of most nothing is recorded: one for all of them, never changed. */
const NO_FACTS: Facts = Object.freeze({});

/** First expired first, then as it came. */
function inTurn(a: OnHand, b: OnHand): number {
	if (a.expiresOn !== b.expiresOn) return (a.expiresOn ?? '9999') < (b.expiresOn ?? '9999') ? -1 : 1;
	if (a.since !== b.since) return a.since < b.since ? -1 : 1;
	if (a.mark !== b.mark) return a.mark.length - b.mark.length || (a.mark < b.mark ? -1 : 1);
	return a.place < b.place ? -1 : 1;
}

/** What is to be known before the stock of some items is read. */
interface AboutStock {
	/** of what is set up */
	version: string;
	/** the items: what stands for the number of what carries none, and when each was made */
	items: Record<string, { code: string; created: string }>;
	/** marks of which something is promised */
	promised: string[];
	/** what open sheets of other orders hold, by mark and place */
	held: { mark: string; place: string; qty: Qty; orders: string }[];
	/** somebody counts; something came back from a customer, anywhere in the firm */
	counting: boolean;
	returns: boolean;
}
async function aboutStock(
	sql: Db,
	itemIds: readonly string[],
	except: string,
	marks?: readonly string[]
): Promise<AboutStock> {
	const [about] = await sql<(AboutStock & { held: AboutStock['held'] | null })[]>`
		SELECT (SELECT version FROM catalogue) AS version, EXISTS (SELECT 1 FROM came_back) AS returns,
			EXISTS (SELECT 1 FROM orders o WHERE o.kind = 'count' AND o.closed_at IS NULL) AS counting,
			(SELECT json_object_agg(i.id, json_build_object('code', i.code, 'created', i.created_at::text)) FROM item i
				WHERE i.id = ANY(${[...itemIds]}::bigint[])) AS items,
			ARRAY(SELECT DISTINCT p.mark_id FROM promise p JOIN mark k ON k.id = p.mark_id
				WHERE p.released_at IS NULL AND p.taken < p.qty AND k.item_id = ANY(${[...itemIds]}::bigint[])
					${marks ? sql`AND p.mark_id = ANY(${[...marks]}::bigint[])` : sql``}) AS promised,
			(SELECT json_agg(json_build_object('mark', h.mark, 'place', h.place, 'qty', trim_scale(h.qty)::text, 'orders', h.orders))
				FROM (SELECT x.mark, x.place, sum(x.qty) AS qty, string_agg(DISTINCT x.code, ', ' ORDER BY x.code) AS orders
					FROM held_row x WHERE x.kind = ANY(${[...HOLDING]}) AND x.order_id <> ${except}
						${marks ? sql`AND x.mark = ANY(${[...marks]}::text[])` : sql``} GROUP BY 1, 2) h) AS held`;
	return { ...about, items: about.items ?? {}, held: about.held ?? [] };
}

/**
 * What is promised of some marks; of other orders' promises what their open sheets hold already is left out.
 * @param order the order, and the customer, whose own promises are told apart
 */
async function promisesOf(
	sql: Db,
	marks: readonly string[],
	order: string,
	customer: string | null
): Promise<(Promised & { mark: string; own: boolean })[]> {
	return sql<(Promised & { mark: string; own: boolean })[]>`
	SELECT n.mark_id AS mark, n.id, n.to AS order, coalesce(n.order_line_id, 0) AS line, n.site, w.own,
		trim_scale(CASE WHEN w.own THEN n.rest ELSE greatest(n.rest - d.qty - waits.qty, 0) END)::text AS qty
	FROM promise_now n
	-- What was bought for the customer of the order is its own as well.
	CROSS JOIN LATERAL (SELECT own_promise(n, ${order}, coalesce(${customer}, (SELECT q.code FROM orders o JOIN partner q ON q.id = o.partner_id WHERE o.id = ${order}))) AS own) w
	CROSS JOIN LATERAL (SELECT coalesce(sum(x.qty), 0) AS qty FROM held_row x WHERE x.kind = ANY(${[...HOLDING]}) AND x.mark = n.mark_id::text AND x.line_id = n.order_line_id) d
	CROSS JOIN LATERAL (SELECT coalesce(sum(v.qty), 0) AS qty FROM order_staged v WHERE v.mark_id = n.mark_id AND v.order_line_id = n.order_line_id) waits
	WHERE n.mark_id = ANY(${[...marks]}::bigint[]) ORDER BY n.id`;
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
