import { MOST_COUNTED } from '../../core/list/list.ts';
import type { Db } from '../database/connect.ts';
import type { Fragment } from '../database/fragment.ts';
import { itemColumn, ownerChoice, placeChoice, statusChoices } from '../list/choices.ts';
import { marksLike, ownedBy, ownOrLots } from '../list/numbers.ts';
import type { ListSource } from '../list/source.ts';

/** What is at real places of a number. */
const hand = `FROM balance b WHERE b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual`;
const state = `CASE WHEN EXISTS (SELECT 1 ${hand}) THEN 'on hand' ELSE coalesce((SELECT CASE p.code WHEN '@customer' THEN 'shipped' WHEN '@process' THEN 'used' WHEN '@scrap' THEN 'scrapped'
	WHEN '@job' THEN 'issued' WHEN '@adjust' THEN 'adjusted' ELSE 'sent back' END FROM effective_movement m JOIN place p ON p.id = m.to_place AND p.virtual
	WHERE m.mark_id = k.id ORDER BY m.at DESC, m.id DESC LIMIT 1),
	(SELECT CASE WHEN count(*) > 0 THEN count(*) || ' serials' END FROM mark c WHERE c.parent_id = k.id), 'started') END`;
const places = `(SELECT string_agg(p.code, ', ' ORDER BY p.code) FROM balance b JOIN place p ON p.id = b.place_id WHERE b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual)`;
const onHand = (sql: Db) => sql`EXISTS (SELECT 1 ${sql.unsafe(hand)})`;

/** The ids of numbers on hand, at places that are named or anywhere, by an index. */
const idsOnHand = (sql: Db, at: Fragment): Fragment =>
	sql`SELECT b.mark_id FROM balance b WHERE b.qty > 0 AND NOT b.virtual ${at} AND b.mark_id NOT IN (SELECT x.id FROM mark x WHERE x.kind = 'unmarked')`;

/** Numbers that a text is in: their own, the supplier's, what they were called before, or their item. */
async function finds(sql: Db, text: string): Promise<{ where: Fragment; many: boolean }> {
	const { pattern, marks, many } = await marksLike(sql, text, MOST_COUNTED);
	return {
		many,
		where: !marks
			? sql`(lower(k.number) LIKE ${pattern} OR lower(k.supplier_lot) LIKE ${pattern} OR lower(k.supplier_serial) LIKE ${pattern}
			OR k.id IN (SELECT a.mark_id FROM mark_alias a WHERE lower(a.number) LIKE ${pattern})
			OR k.item_id IN (SELECT i.id FROM item i WHERE lower(i.code || ' ' || i.name) LIKE ${pattern}))`
			: sql`k.id IN (${marks})`
	};
}

/** Every lot and serial. What is on hand comes first to mind: without a text to find, only that is listed unasked. */
export const registerList: ListSource = {
	key: 'register',
	title: 'Register',
	right: 'read',
	find: 'Find a number, supplier’s number or item',
	empty: 'No lot or serial is booked yet. They come with the first delivery.',
	id: ['k.id'],
	sort: { key: 'number', down: false },
	from: `mark_now k JOIN item i ON i.id = k.item_id WHERE k.kind <> 'unmarked'`,
	also: { itemCode: 'i.code', unit: 'i.unit', kind: 'k.kind' },
	finds,
	unasked: (find): Record<string, { is: string }> => (find ? {} : { show: { is: 'on hand' } }),
	columns: [
		{ key: 'number', label: 'Number', kind: 'text', from: 'k.number', filled: true, mono: true },
		itemColumn,
		{ key: 'lot', label: 'Lot', kind: 'text', from: 'k.of_lot', mono: true },
		{
			key: 'qty',
			label: 'On hand',
			kind: 'number',
			from: `coalesce((SELECT sum(b.qty) ${hand}), 0)`,
			text: `coalesce((SELECT trim_scale(sum(b.qty)) ${hand}), 0)::text`,
			together: {
				values:
					'SELECT b.mark_id AS id, sum(b.qty) AS value FROM balance b WHERE b.qty > 0 AND NOT b.virtual GROUP BY b.mark_id',
				none: '0'
			},
			filled: true
		},
		{
			...placeChoice,
			label: 'Where',
			from: places,
			together: {
				values: `SELECT b.mark_id AS id, string_agg(p.code, ', ' ORDER BY p.code) AS value FROM balance b JOIN place p ON p.id = b.place_id WHERE b.qty > 0 AND NOT b.virtual GROUP BY b.mark_id`
			},
			mono: true,
			where: (sql, _f, { ids }) =>
				sql`EXISTS (SELECT 1 ${sql.unsafe(hand)} AND b.place_id = ANY(${ids.place}::bigint[]))`,
			// What is somewhere is on hand.
			fitting: (sql, _f, { filters, ids }) =>
				Object.keys(filters).every((key) => key === 'place' || (key === 'show' && filters.show.is === 'on hand'))
					? idsOnHand(sql, sql`AND b.place_id = ANY(${ids.place}::bigint[])`)
					: null
		},
		{ key: 'state', label: 'State', kind: 'text', text: state, computed: true },
		{ key: 'expires', label: 'Expires', kind: 'day', from: 'k.expires_on' },
		{ key: 'made', label: 'Made', kind: 'day', from: 'k.made_on', extra: true },
		{ key: 'supplierLot', label: 'Supplier’s lot', kind: 'text', from: 'k.supplier_lot', mono: true },
		{
			key: 'supplierSerial',
			label: 'Supplier’s serial',
			kind: 'text',
			from: 'k.supplier_serial',
			mono: true,
			extra: true
		},
		{
			key: 'status',
			label: 'Status',
			kind: 'choice',
			from: 'k.status',
			filled: true,
			extra: true,
			choices: statusChoices
		},
		{
			...ownerChoice,
			where: (sql, { is }) => ownedBy(sql, is ?? '')
		},
		{
			key: 'kind',
			label: 'Lots or serials',
			kind: 'choice',
			filterOnly: true,
			choices: [
				{ value: 'lot', label: 'lots' },
				{ value: 'serial', label: 'serials' }
			],
			where: (sql, { is }) => sql`k.kind = ${is ?? ''}`
		},
		{
			key: 'show',
			label: 'Which',
			kind: 'choice',
			filterOnly: true,
			choices: [
				{ value: 'on hand', label: 'on hand' },
				{ value: 'gone', label: 'not here' },
				{ value: 'held', label: 'not released' },
				{ value: 'expiring', label: 'expiring soon' },
				{ value: 'all', label: 'all' }
			],
			where: (sql, { is }, { today }) => {
				if (is === 'on hand') return onHand(sql);
				if (is === 'gone') return sql`NOT ${onHand(sql)}`;
				// Of all numbers few are stopped or near their expiry: an index finds them, by their own or by their lot's.
				if (is === 'held') return sql`k.id IN (${ownOrLots(sql, (k) => sql`${k}.status <> 'released'`)})`;
				if (is === 'expiring')
					return sql`k.id IN (${ownOrLots(sql, (k) => sql`${k}.expires_on <= ${today}::date + (SELECT greatest(30, max(x.notice_days)) FROM item x)`)}) AND notice_on(k.expires_on, (SELECT x.notice_days FROM item x WHERE x.id = k.item_id)) <= ${today}::date AND ${onHand(sql)}`;
				return sql`true`;
			},
			fitting: (sql, { is }, { filters }) =>
				is === 'on hand' && Object.keys(filters).length === 1 ? idsOnHand(sql, sql``) : null
		}
	]
};
