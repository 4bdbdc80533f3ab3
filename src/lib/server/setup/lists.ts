import { REASON_ACTS } from '../../core/document/kinds.ts';
import { shownAmount, shownQty } from '../database/shown.ts';
import type { ListSource } from '../list/source.ts';

const choices = (...values: string[]) => values.map((value) => ({ value, label: value }));

/** Items, with how each is numbered. */
export const itemList: ListSource = {
	key: 'items',
	title: 'Items',
	right: 'write items',
	find: 'Find an item',
	empty: 'No item yet. Add the first one above.',
	id: ['i.id'],
	sort: { key: 'code', down: false },
	from: `item i LEFT JOIN item_kind d ON d.id = i.kind_id LEFT JOIN item_rule r ON r.item_id = i.id AND r.step = 'receipt' WHERE true`,
	columns: [
		{ key: 'code', label: 'Item', kind: 'text', from: 'i.code', filled: true, mono: true },
		{ key: 'name', label: 'Name', kind: 'text', from: 'i.name', filled: true },
		{ key: 'unit', label: 'Unit', kind: 'text', from: 'i.unit', filled: true },
		{ key: 'decimals', label: 'Decimals', kind: 'number', from: 'i.decimals', filled: true, extra: true },
		{
			key: 'carries',
			label: 'Carries',
			kind: 'choice',
			from: 'i.tracking',
			filled: true,
			choices: [{ value: 'none', label: 'no number' }, ...choices('lot', 'serial', 'lot and serial')]
		},
		{ key: 'kind', label: 'Kind', kind: 'text', from: 'd.name' },
		{
			key: 'expiry',
			label: 'Expiry',
			kind: 'choice',
			from: `coalesce(r.expiry, 'not asked')`,
			filled: true,
			choices: choices('not asked', 'asked', 'required')
		},
		{ key: 'shelfLife', label: 'Shelf life', kind: 'text', from: 'i.shelf_life' },
		{ key: 'gtin', label: 'GTIN', kind: 'text', from: 'i.gtin', mono: true, extra: true },
		{
			key: 'made',
			label: 'Made from',
			kind: 'text',
			from: `(SELECT string_agg(${shownAmount('x.qty', 'p.unit')} || ' ' || p.code, ', ' ORDER BY p.code) FROM part x JOIN item p ON p.id = x.part_item_id WHERE x.item_id = i.id)`
		}
	]
};

/** Kinds of items. */
export const kindList: ListSource = {
	key: 'kinds',
	title: 'Kinds of items',
	right: 'write items',
	find: 'Find a kind',
	empty:
		'No kind yet. A kind holds one marking rule for many items: chemicals by lot with expiry, electronics by serial.',
	id: ['k.id'],
	sort: { key: 'name', down: false },
	from: 'item_kind k WHERE true',
	columns: [
		{ key: 'code', label: 'Kind', kind: 'text', from: 'k.code', filled: true, mono: true },
		{ key: 'name', label: 'Name', kind: 'text', from: 'k.name', filled: true },
		{
			key: 'items',
			label: 'Items',
			kind: 'number',
			from: '(SELECT count(*) FROM item i WHERE i.kind_id = k.id)',
			filled: true
		},
		{
			key: 'follow',
			label: 'Go by its rule',
			kind: 'number',
			from: '(SELECT count(*) FROM item i WHERE i.kind_id = k.id AND NOT i.own_rule)',
			filled: true
		}
	]
};

/** Customers and suppliers. */
export const partnerList: ListSource = {
	key: 'partners',
	title: 'Partners',
	right: 'write places and partners',
	find: 'Find a partner',
	empty: 'No partner yet. Add the suppliers and customers above.',
	id: ['p.id'],
	sort: { key: 'name', down: false },
	from: 'partner p WHERE true',
	columns: [
		{ key: 'code', label: 'Code', kind: 'text', from: 'p.code', filled: true, mono: true },
		{ key: 'name', label: 'Name', kind: 'text', from: 'p.name', filled: true },
		{
			key: 'kind',
			label: 'Kind',
			kind: 'choice',
			from: 'p.kind',
			filled: true,
			choices: choices('supplier', 'customer', 'both')
		},
		{
			key: 'orders',
			label: 'Open orders',
			kind: 'number',
			from: '(SELECT count(*) FROM orders o WHERE o.partner_id = p.id AND o.closed_at IS NULL)',
			filled: true
		}
	]
};

/** Sites and bins. */
export const placeList: ListSource = {
	key: 'places',
	title: 'Places',
	right: 'write places and partners',
	find: 'Find a place',
	empty: 'No place yet. Add the site first, then its bins.',
	id: ['p.id'],
	sort: { key: 'code', down: false },
	from: 'place p LEFT JOIN place s ON s.id = p.site_id WHERE NOT p.virtual AND NOT p.transit',
	columns: [
		{ key: 'code', label: 'Place', kind: 'text', from: 'p.code', filled: true, mono: true },
		{ key: 'name', label: 'Name', kind: 'text', from: 'p.name', filled: true },
		{ key: 'site', label: 'Site', kind: 'text', from: 's.code', mono: true },
		{ key: 'zone', label: 'Time zone', kind: 'text', from: 'p.zone' },
		{
			key: 'dock',
			label: 'Goods arrive',
			kind: 'choice',
			from: `CASE WHEN p.dock THEN 'yes' ELSE 'no' END`,
			filled: true,
			choices: choices('yes', 'no')
		},
		{
			key: 'staging',
			label: 'Picked goods wait',
			kind: 'choice',
			from: `CASE WHEN p.staging THEN 'yes' ELSE 'no' END`,
			filled: true,
			choices: choices('yes', 'no')
		},
		{
			key: 'numbers',
			label: 'Numbers there',
			kind: 'number',
			from: '(SELECT count(*) FROM balance b WHERE b.place_id = p.id AND b.qty > 0 AND NOT b.virtual)',
			filled: true
		}
	]
};

/** The details that can be asked of a number: the extra fields. */
export const factList: ListSource = {
	key: 'fields',
	title: 'Extra fields',
	right: 'write items',
	find: 'Find a field',
	empty:
		'No extra field yet. Add what you want to know besides numbers and dates: a certificate, a temperature on arrival, a melt number.',
	id: ['f.id'],
	sort: { key: 'name', down: false },
	from: 'fact f WHERE true',
	columns: [
		{ key: 'code', label: 'Field', kind: 'text', from: 'f.code', filled: true, mono: true },
		{ key: 'name', label: 'Name', kind: 'text', from: 'f.name', filled: true },
		{
			key: 'kind',
			label: 'Is a',
			kind: 'choice',
			from: 'f.kind',
			filled: true,
			choices: [...choices('text', 'number', 'date', 'choice'), { value: 'file', label: 'file (PDF or picture)' }]
		},
		{
			key: 'limits',
			label: 'Limits or choices',
			kind: 'text',
			from: `coalesce(nullif(array_to_string(f.choices, ', '), ''), nullif(concat_ws(' to ', ${shownQty('f.low')}, ${shownQty('f.high')}), '') || coalesce(' ' || f.unit, ''))`
		},
		{
			key: 'outside',
			label: 'Outside its limits',
			kind: 'choice',
			from: `CASE WHEN f.low IS NOT NULL OR f.high IS NOT NULL THEN f.outside END`,
			choices: [
				{ value: 'stop', label: 'cannot be booked' },
				{ value: 'reason', label: 'wants a reason' },
				{ value: 'note', label: 'is only noted' }
			]
		},
		{
			key: 'per',
			label: 'Kept with',
			kind: 'choice',
			from: 'f.per',
			filled: true,
			choices: [
				{ value: 'lot', label: 'the lot' },
				{ value: 'piece', label: 'each piece' }
			]
		},
		{
			key: 'asked',
			label: 'Asked by rules',
			kind: 'number',
			from: '(SELECT count(DISTINCT (r.item_id, r.kind_id)) FROM fact_rule r WHERE r.fact_id = f.id)',
			filled: true
		}
	]
};

/** What material is used for that makes no item. */
export const jobList: ListSource = {
	key: 'jobs',
	title: 'Jobs',
	right: 'write places and partners',
	find: 'Find a job',
	empty: 'No job yet. Add the first one above.',
	id: ['j.id'],
	sort: { key: 'code', down: false },
	from: 'job j LEFT JOIN partner p ON p.id = j.partner_id WHERE true',
	columns: [
		{ key: 'code', label: 'Code', kind: 'text', from: 'j.code', filled: true, mono: true },
		{ key: 'name', label: 'What it is', kind: 'text', from: 'j.name', filled: true },
		{
			key: 'kind',
			label: 'Kind',
			kind: 'choice',
			from: 'j.kind',
			filled: true,
			choices: choices('project', 'department', 'own use')
		},
		{ key: 'partner', label: 'Customer', kind: 'text', from: 'p.name' },
		{
			key: 'issues',
			label: 'Issues',
			kind: 'number',
			from: `(SELECT count(*) FROM event e WHERE e.job_id = j.id AND e.kind <> 'undo' AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id))`,
			filled: true
		},
		{ key: 'closed', label: 'Closed', kind: 'day', from: 'j.closed_on' }
	]
};

/** Stations of the floor. */
export const stationList: ListSource = {
	key: 'stations',
	title: 'Stations',
	right: 'write places and partners',
	find: 'Find a station',
	empty: 'No station yet. Add the first one above: a bench, a line, a cell where parts are put in.',
	id: ['t.id'],
	sort: { key: 'code', down: false },
	from: 'station t JOIN place p ON p.id = t.place_id WHERE true',
	columns: [
		{ key: 'code', label: 'Station', kind: 'text', from: 't.code', filled: true, mono: true },
		{ key: 'name', label: 'Name', kind: 'text', from: 't.name', filled: true },
		{ key: 'place', label: 'Stands at', kind: 'text', from: 'p.code', filled: true, mono: true },
		{
			key: 'review',
			label: 'Review',
			kind: 'choice',
			from: `CASE WHEN t.review THEN 'yes' ELSE 'no' END`,
			filled: true,
			choices: choices('yes', 'no')
		},
		{ key: 'closed', label: 'Closed', kind: 'day', from: 't.closed_on' }
	]
};

/** Ways of delivery. */
export const reasonList: ListSource = {
	key: 'reasons',
	title: 'Reasons',
	right: 'write places and partners',
	find: 'Find a reason',
	empty: 'No reason yet. Add the first one above: damaged, missing, found.',
	id: ['r.id'],
	sort: { key: 'name', down: false },
	from: 'reason r WHERE true',
	columns: [
		{ key: 'name', label: 'Reason', kind: 'text', from: 'r.name', filled: true },
		{
			key: 'act',
			label: 'A reason to',
			kind: 'choice',
			from: 'r.act',
			filled: true,
			choices: REASON_ACTS.map((value) => ({ value, label: value }))
		},
		{ key: 'closed', label: 'Closed', kind: 'day', from: 'r.closed_on' }
	]
};

export const wayList: ListSource = {
	key: 'ways',
	title: 'Ways of delivery',
	right: 'write places and partners',
	find: 'Find a way of delivery',
	empty: 'No way of delivery yet. Add the first one above: a carrier, a van of our own, collected by the customer.',
	id: ['w.id'],
	sort: { key: 'code', down: false },
	from: 'delivery_way w WHERE true',
	columns: [
		{ key: 'code', label: 'Way', kind: 'text', from: 'w.code', filled: true, mono: true },
		{ key: 'name', label: 'Name', kind: 'text', from: 'w.name', filled: true },
		{ key: 'divisor', label: 'cm³ for a kg', kind: 'number', from: 'w.divisor' },
		{ key: 'rate', label: 'For a kg', kind: 'number', from: 'w.rate' },
		{ key: 'minimum', label: 'At least', kind: 'number', from: 'w.minimum' },
		{ key: 'currency', label: 'Currency', kind: 'text', from: 'w.currency', filled: true },
		{ key: 'closed', label: 'Closed', kind: 'day', from: 'w.closed_on' }
	]
};
