import { belongsTo } from '../../core/allocation/allocate.ts';
import { isPast } from '../../core/list/list.ts';
import { rest } from '../../core/quantity/quantity.ts';
import type { Db } from '../database/connect.ts';
import { like } from '../database/like.ts';
import type { Fragment } from '../database/fragment.ts';
import { itemColumn, ownerChoice, ownerName, placeChoice, statusChoices } from '../list/choices.ts';
import { marksLike, ownedBy, ownOrLots } from '../list/numbers.ts';
import type { ListAsked, ListSource, SourceColumn } from '../list/source.ts';

/** The moment of the past that is asked, as the database has it; null for now. Of a known form, so that it may stand in the statement. */
function pastOf({ filters }: ListAsked): string | null {
	const at = filters.asOf?.is;
	return at && isPast(at) ? `moment_of('${at}')` : null;
}
/** The moment that all of the list is looked at. */
const asOfColumn: SourceColumn = {
	key: 'asOf',
	label: 'As of',
	kind: 'past',
	filterOnly: true,
	where: (sql) => sql`true`
};
/** What was on hand at a moment, with status and expiry as they were. */
function pastStock(b: string, moment: string): string {
	const then = (mark: string, what: string, now: string) => `recorded_at(${mark}, '${what}', ${moment}, ${now})`;
	return `${b} b JOIN mark_now k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id JOIN place p ON p.id = b.place_id LEFT JOIN mark o ON o.id = k.parent_id
		CROSS JOIN LATERAL (SELECT worse_status(${then('k.id', 'status', 'k.own_status')}, ${then('o.id', 'status', 'o.status')}) AS status,
			coalesce(${then('k.id', 'expires_on', 'k.own_expires_on::text')}, ${then('o.id', 'expires_on', 'o.expires_on::text')})::date AS expires_on,
			coalesce(${then('k.id', 'owner', 'k.own_owner')}, ${then('o.id', 'owner', 'o.owner')}) AS owner) w WHERE b.qty > 0 AND NOT p.virtual`;
}

/** What is on hand now, or was at the moment that is asked: balances (b) with number (k), item (i), place (p), status and expiry (w). */
function onHand(asked: ListAsked): string {
	const moment = pastOf(asked);
	return moment
		? pastStock(`stock_at(${moment})`, moment)
		: `balance b JOIN mark_now k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id JOIN place p ON p.id = b.place_id
			CROSS JOIN LATERAL (SELECT k.status, k.expires_on, k.owner) w WHERE b.qty > 0 AND NOT b.virtual`;
}

/**
 * How much of what lies there others hold, promised or picked, and who.
 * @param rows of mark, place and qty
 * @returns rows of mark, place, qty (held, in the item's unit) and by; none for what nobody holds
 */
const heldOf = (sql: Db, rows: Fragment) => sql`
	SELECT n.mark, n.place, least(n.qty, n.promised + n.staged) AS qty, n.by FROM (
		SELECT x.mark, x.place, x.qty, coalesce(s.qty, 0) AS staged, concat_ws(', ', 'promised to ' || p.to, 'picked for ' || s.to) AS by,
			-- Promises of a lot lie on its places in their order, the first places first.
			greatest(0, least(x.qty, coalesce(p.qty, 0) - coalesce((SELECT sum(y.qty) FROM balance y JOIN place o ON o.id = y.place_id JOIN place mine ON mine.id = x.place
				WHERE y.mark_id = x.mark AND NOT y.virtual AND y.qty > 0 AND o.code < mine.code), 0))) AS promised
		FROM (${rows}) x(mark, place, qty)
		LEFT JOIN LATERAL (SELECT sum(n.rest) AS qty, string_agg(DISTINCT n.to, ', ' ORDER BY n.to) AS to FROM promise_now n WHERE n.mark_id = x.mark AND n.rest > 0) p ON true
		LEFT JOIN LATERAL (SELECT sum(v.qty) AS qty, string_agg(DISTINCT o.code, ', ' ORDER BY o.code) AS to FROM order_staged v JOIN orders o ON o.id = v.order_id WHERE v.mark_id = x.mark AND v.place_id = x.place) s ON true) n
	WHERE n.promised + n.staged > 0`;

/** What is on hand: each lot, serial and unmarked stock at each place. */
export const stockList: ListSource = {
	key: 'stock',
	title: 'Stock',
	right: 'read',
	find: 'Find an item, number or place',
	// By the indexes of numbers and places, each by itself: of both at once there is none.
	finds: async (sql, text) => {
		const { pattern, marks } = await marksLike(sql, text);
		const places = sql`ARRAY(SELECT x.id FROM place x WHERE lower(x.code) LIKE ${pattern})`;
		if (!marks)
			return {
				where: sql`(lower(concat_ws(' ', i.code, i.name, k.number, k.of_lot)) LIKE ${pattern} OR b.place_id = ANY(${places}))`
			};
		const called = sql`${marks} UNION ALL SELECT c.id FROM mark l JOIN mark c ON c.parent_id = l.id WHERE lower(l.number) LIKE ${pattern}`;
		return {
			where: sql`(b.mark_id, b.place_id) IN (SELECT y.mark_id, y.place_id FROM balance y WHERE y.mark_id IN (${called})
				UNION SELECT y.mark_id, y.place_id FROM balance y WHERE y.place_id = ANY(${places}) AND y.qty > 0 AND NOT y.virtual)`,
			gathered: sql`(b.mark_id = ANY(ARRAY(${called})) OR b.place_id = ANY(${places}))`
		};
	},
	empty: 'Nothing is on hand. Stock comes with the first delivery.',
	id: ['b.mark_id', 'b.place_id'],
	sort: { key: 'item', down: false },
	from: onHand,
	counts: 'balance b WHERE b.qty > 0 AND NOT b.virtual',
	// What there was is worked out for all of it together.
	whole: (asked) => pastOf(asked) !== null,
	each: (asked) => {
		const moment = pastOf(asked);
		return moment && pastStock(`stock_of_at(list_page.list_id0, ${moment})`, moment);
	},
	also: {
		...{
			mark: 'k.id',
			markKind: 'k.kind',
			unit: 'i.unit',
			itemCode: 'i.code',
			statusNow: 'w.status',
			owner: ownerName('w.owner')
		},
		where: 'b.place_id'
	},
	columns: [
		itemColumn,
		{ key: 'number', label: 'Number', kind: 'text', from: 'k.number', mono: true },
		{ key: 'lot', label: 'Lot', kind: 'text', from: 'k.of_lot', mono: true },
		{
			...placeChoice,
			label: 'Place',
			from: 'p.code',
			filled: true,
			mono: true,
			where: (sql, _f, { ids }) => sql`b.place_id = ANY(${ids.place}::bigint[])`
		},
		{ key: 'qty', label: 'On hand', kind: 'number', from: 'b.qty', text: 'trim_scale(b.qty)::text', filled: true },
		{ key: 'free', label: 'Free', kind: 'number', computed: true },
		{ key: 'held', label: 'Why not free', kind: 'text', computed: true },
		{ key: 'expires', label: 'Expires', kind: 'day', from: 'w.expires_on' },
		{
			key: 'status',
			label: 'Status',
			kind: 'choice',
			from: 'w.status',
			filled: true,
			choices: statusChoices,
			// What is stopped is little among much: an index finds it, by its own status or by its lot's.
			where: (sql, { is }, { filters }) =>
				is === 'released' || filters.asOf?.is
					? sql`w.status = ${is ?? ''}`
					: sql`(k.id IN (${ownOrLots(sql, (x) => sql`${x}.status <> 'released'`)}) AND w.status = ${is ?? ''})`
		},
		{
			...ownerChoice,
			where: (sql, { is }, { filters }) => (filters.asOf?.is ? sql`w.owner = ${is ?? ''}` : ownedBy(sql, is ?? ''))
		},
		{
			key: 'promised',
			label: 'Promised to',
			kind: 'text',
			filterOnly: true,
			mono: true,
			where: (sql, { is }) =>
				sql`EXISTS (SELECT 1 FROM promise_now n WHERE n.mark_id = b.mark_id AND n.rest > 0 AND lower(n.to) LIKE ${`%${like((is ?? '').toLowerCase())}%`})`
		},
		{
			key: 'still',
			label: 'Nothing moved for, days',
			kind: 'number',
			filterOnly: true,
			where: (
				sql,
				{ from, to }
			) => sql`(SELECT extract(epoch FROM now() - max(m.at)) / 86400 FROM movement m WHERE m.mark_id = b.mark_id AND b.place_id IN (m.from_place, m.to_place))
				BETWEEN ${from ?? '0'}::text::numeric AND ${to ?? '1000000'}::text::numeric`
		},
		{
			key: 'left',
			label: 'Left of what came, %',
			kind: 'number',
			filterOnly: true,
			// Of a lot: what is on hand in all places, of all that ever came from outside or was made.
			where: (
				sql,
				{ from, to }
			) => sql`(k.kind = 'lot' AND (SELECT sum(y.qty) FROM balance y WHERE y.mark_id = b.mark_id AND NOT y.virtual) * 100 / nullif((
				SELECT sum(m.qty) FROM effective_movement m JOIN place f ON f.id = m.from_place AND f.virtual WHERE m.mark_id = b.mark_id AND m.role IS DISTINCT FROM 'detach'), 0)
				BETWEEN ${from ?? '0'}::text::numeric AND ${to ?? '1000000'}::text::numeric)`
		},
		asOfColumn
	],
	// What others hold of it, for a page in one statement. What was promised at a moment of the past is not known.
	finish: async (sql, rows, { filters }) => {
		const whose = (owner: string | null | undefined, held: string | null) =>
			[owner && belongsTo(owner), held].filter((t) => t).join(', ') || null;
		if (filters.asOf?.is || !rows.length)
			return rows.map(({ owner, ...r }) => ({ ...r, free: null, held: whose(owner, null) }));
		const [marks, places] = [rows.map((r) => r.mark), rows.map((r) => r.where)];
		// Of most pages nothing is held: that is known of two tables, and of what is held the database has much to plan.
		const [{ some }] = await sql<{ some: boolean }[]>`
			SELECT EXISTS (SELECT 1 FROM promise p WHERE p.mark_id = ANY(${marks}::bigint[]) AND p.released_at IS NULL)
				OR EXISTS (SELECT 1 FROM place p WHERE p.staging AND p.id = ANY(${places}::bigint[])) AS some`;
		const lying = sql`SELECT * FROM unnest(${marks}::bigint[], ${places}::bigint[], ${rows.map((r) => r.qty)}::numeric[])`;
		const held = !some
			? []
			: await sql<{ id: string; qty: string; by: string | null }[]>`
				SELECT h.mark || '.' || h.place AS id, trim_scale(h.qty)::text AS qty, h.by FROM (${heldOf(sql, lying)}) h`;
		const known = new Map(held.map((h) => [h.id, h]));
		return rows.map(({ where, owner, ...r }) => {
			const h = known.get(`${r.mark}.${where}`);
			const free = owner ? '0' : h ? rest(r.qty ?? '0', h.qty) : r.qty;
			return { ...r, free, held: whose(owner, h?.by ?? null) };
		});
	}
};

/** The totals of one item's stock, or of every item's, in all places or those that are asked. */
function totals(asked: ListAsked, item = ''): string {
	const places = asked.ids.place ? ` AND b.place_id = ANY('{${asked.ids.place.join(',')}}'::bigint[])` : '';
	return `(SELECT k.item_id, sum(b.qty) AS qty, sum(b.qty) FILTER (WHERE w.status <> 'released') AS stopped, sum(b.qty) FILTER (WHERE w.owner IS NOT NULL) AS theirs, min(w.expires_on) AS expires_on,
			count(DISTINCT b.mark_id) FILTER (WHERE k.kind <> 'unmarked') AS numbers, count(DISTINCT b.place_id) AS places
		FROM ${onHand(asked)}${places}${item} GROUP BY k.item_id) t JOIN item i ON i.id = t.item_id WHERE true`;
}
const amountColumn = (key: string, label: string, from: string) =>
	({ key, label, kind: 'number', from, text: `trim_scale(${from})::text`, filled: true }) as const;

/** How much of each item is on hand, in all places or in one site or bin, now or at a moment of the past. */
export const totalList: ListSource = {
	key: 'totals',
	title: 'Stock by item',
	right: 'read',
	find: 'Find an item',
	finds: async (sql, text) => ({
		where: sql`lower(i.code || ' ' || i.name) LIKE ${`%${like(text.toLowerCase())}%`}`
	}),
	empty: 'Nothing is on hand. Stock comes with the first delivery.',
	id: ['i.id'],
	sort: { key: 'item', down: false },
	from: (asked) => totals(asked),
	// Every item's sum is worked out together.
	whole: () => true,
	each: (asked) => totals(asked, ' AND k.item_id = list_page.list_id0'),
	also: { itemCode: 'i.code', unit: 'i.unit' },
	columns: [
		itemColumn,
		amountColumn('qty', 'On hand', 't.qty'),
		{ key: 'free', label: 'Free', kind: 'number', computed: true },
		{ key: 'held', label: 'Promised or picked', kind: 'number', computed: true },
		amountColumn('stopped', 'Not released', 'coalesce(t.stopped, 0)'),
		amountColumn('theirs', 'Not ours', 'coalesce(t.theirs, 0)'),
		{ key: 'numbers', label: 'Lots and serials', kind: 'number', from: 't.numbers', filled: true },
		{ key: 'places', label: 'Bins', kind: 'number', from: 't.places', filled: true },
		{ key: 'expires', label: 'Expires first', kind: 'day', from: 't.expires_on' },
		{
			...placeChoice,
			label: 'Place',
			filterOnly: true,
			// It narrows what is summed, not the sums.
			where: (sql) => sql`true`
		},
		asOfColumn
	],
	// What was promised at a moment of the past is not known.
	finish: async (sql, rows, { filters, ids }) => {
		if (filters.asOf?.is || !rows.length) return rows.map((r) => ({ ...r, free: null, held: null }));
		const lying = sql`
			SELECT b.mark_id, b.place_id, b.qty FROM balance b JOIN mark m ON m.id = b.mark_id WHERE b.qty > 0 AND NOT b.virtual AND m.item_id = ANY(${rows.map((r) => r.id)}::bigint[])
				AND b.mark_id IN (SELECT n.mark_id FROM promise_now n WHERE n.rest > 0 UNION SELECT v.mark_id FROM order_staged v)
				${ids.place ? sql`AND b.place_id = ANY(${ids.place}::bigint[])` : sql``}`;
		const held = await sql<{ item: string; qty: string }[]>`
			SELECT m.item_id AS item, trim_scale(sum(h.qty))::text AS qty FROM (${heldOf(sql, lying)}) h JOIN mark m ON m.id = h.mark GROUP BY m.item_id`;
		const known = new Map(held.map((h) => [h.item, h.qty]));
		return rows.map((r) => {
			const qty = known.get(r.id) ?? '0';
			return { ...r, free: rest(rest(r.qty ?? '0', r.theirs ?? '0'), qty), held: qty };
		});
	}
};
