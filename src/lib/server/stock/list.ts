import { itemChoices, placeChoices, statusChoices } from '../list/choices.ts';
import type { ListSource } from '../list/source.ts';

/** What is on hand: each lot, serial and unmarked stock at each place. */
export const stockList: ListSource = {
	key: 'stock',
	title: 'Stock',
	right: 'read',
	find: 'Find an item, number or place',
	empty: 'Nothing is on hand. Stock comes with the first delivery.',
	id: ['b.mark_id', 'b.place_id'],
	sort: { key: 'item', down: false },
	from: `balance b JOIN mark_now k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id JOIN place p ON p.id = b.place_id WHERE b.qty > 0 AND NOT b.virtual`,
	also: { mark: 'k.id', markKind: 'k.kind', unit: 'i.unit', itemCode: 'i.code', statusNow: 'k.status' },
	columns: [
		{
			key: 'item',
			label: 'Item',
			kind: 'choice',
			from: 'i.name',
			filled: true,
			where: (sql, { is }) => sql`i.code = ${is ?? ''}`,
			options: itemChoices
		},
		{ key: 'number', label: 'Number', kind: 'text', from: 'k.number', mono: true },
		{ key: 'lot', label: 'Lot', kind: 'text', from: 'k.of_lot', mono: true },
		{
			key: 'place',
			label: 'Place',
			kind: 'choice',
			from: 'p.code',
			filled: true,
			mono: true,
			where: (sql, { is }) =>
				sql`(p.code = ${is ?? ''} OR p.site_id = (SELECT s.id FROM place s WHERE s.code = ${is ?? ''}))`,
			options: placeChoices
		},
		{ key: 'qty', label: 'On hand', kind: 'number', from: 'b.qty', text: 'trim_scale(b.qty)::text', filled: true },
		{ key: 'expires', label: 'Expires', kind: 'day', from: 'k.expires_on' },
		{
			key: 'status',
			label: 'Status',
			kind: 'choice',
			from: 'k.status',
			filled: true,
			choices: statusChoices
		}
	]
};
