import type { Role } from '../../core/people/can.ts';

/** A call as a program may make it, and where in earlier answers it finds what only the server knows. */
export interface Example {
	/** the method and the path of the operation, as the table has them */
	call: string;
	/** what others call its answer by */
	name?: string;
	params?: Record<string, string>;
	query?: Record<string, string>;
	body?: unknown;
	/** places in it (body.line, params.id) that come from earlier answers (order.lines.0.id) */
	from?: Record<string, string>;
	/** whoever may do it, where the coordinator may not */
	as?: Role;
}

const NOW = '2026-11-27T09:30:00Z';
const RULE = { lot: 'not asked', serial: 'required' };
/** A picture of one dot. */
const DOT = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAQAAAC1HAwCAAAAC0lEQVR42mNk+A8AAQUBAScY42YAAAAASUVORK5CYII=';
const scan = (id: number, text: string, more: object = {}) => ({
	id: `00000000-0000-4000-8000-0000000000${String(id).padStart(2, '0')}`,
	text,
	...more
});
const order = (code: string, kind: string, more: object) => ({ code, kind, site: 'EX/A1', ...more });

/**
 * An example of each call, in an order in which a firm that has nothing yet could make them: it sets itself up, buys wire and
 * bulbs, makes lamps of them at a station, mixes enamel, ships, counts, and looks at all of it.
 */
export const EXAMPLES: readonly Example[] = [
	{ call: 'GET /api/v1/healthz' },
	{ call: 'GET /api/v1/openapi.json' },

	// The firm.
	{ call: 'PUT /api/v1/places/{site}', params: { site: 'EX' }, body: { name: 'Works' } },
	{ call: 'PUT /api/v1/places/{site}/{bin}', params: { site: 'EX', bin: 'A1' }, body: { name: 'Shelf 1' } },
	{ call: 'PUT /api/v1/places/{site}/{bin}', params: { site: 'EX', bin: 'A2' }, body: { name: 'Shelf 2' } },
	{ call: 'PUT /api/v1/places/{site}', params: { site: 'EY' }, body: { name: 'Depot' } },
	{ call: 'PUT /api/v1/places/{site}/{bin}', params: { site: 'EY', bin: 'B1' }, body: { name: 'Bay 1' } },
	{ call: 'PUT /api/v1/places/{site}/{bin}', params: { site: 'EY', bin: 'OUT' }, body: { name: 'Ready to go' } },
	{ call: 'PATCH /api/v1/places/{site}', params: { site: 'EX' }, body: { preference: 'first in', binsFirst: false } },
	{ call: 'PATCH /api/v1/places/{site}/{bin}', params: { site: 'EY', bin: 'OUT' }, body: { staging: true } },
	{ call: 'PATCH /api/v1/firm', body: { zone: 'Europe/London', terms: 'What is paid is yours.', countLimit: '10' } },
	{ call: 'PATCH /api/v1/checks', body: { 'more than ordered': 'note' } },
	{
		call: 'PUT /api/v1/partners/{partner}',
		params: { partner: 'EXSUP' },
		body: { name: 'Wireworks', kind: 'supplier' }
	},
	{
		call: 'PUT /api/v1/partners/{partner}',
		params: { partner: 'EXCUS' },
		body: { name: 'The port', kind: 'customer' }
	},
	{ call: 'PUT /api/v1/jobs/{job}', params: { job: 'EXFAIR' }, body: { name: 'Trade fair', kind: 'own use' } },
	{
		call: 'PUT /api/v1/ways/{way}',
		params: { way: 'EXROAD' },
		body: { name: 'By road', divisor: '5000', rate: '0.9', minimum: '8', currency: 'EUR' }
	},
	{
		call: 'PUT /api/v1/stations/{station}',
		params: { station: 'EX1' },
		body: { name: 'Bench 1', place: 'EX/A1', review: true }
	},
	{ call: 'POST /api/v1/reasons', body: { name: 'Broken in the shelf', act: 'count' } },
	{
		call: 'PUT /api/v1/patterns/{pattern}',
		params: { pattern: 'EXL' },
		body: {
			name: 'Lamps, running',
			blocks: [
				{ kind: 'text', text: 'LM-' },
				{ kind: 'sequence', digits: 4, reset: 'never' }
			]
		}
	},
	{
		call: 'PUT /api/v1/facts/{fact}',
		params: { fact: 'EXHEAT' },
		body: { name: 'Heat number', kind: 'text' }
	},
	{
		call: 'PUT /api/v1/kinds/{kind}',
		params: { kind: 'EXPIECES' },
		body: { name: 'Pieces', rules: [{ step: 'receipt', ...RULE }] }
	},
	{ call: 'POST /api/v1/items', body: { code: 'EXWIRE', name: 'Wire', unit: 'kg', decimals: 3, tracking: 'lot' } },
	{ call: 'POST /api/v1/items', body: { code: 'EXBULB', name: 'Bulb', unit: 'each', tracking: 'serial' } },
	{
		call: 'POST /api/v1/items',
		body: {
			...{ code: 'EXLAMP', name: 'Lamp', unit: 'each', tracking: 'serial', serialPattern: 'EXL', runMode: 'unit' },
			parts: [{ item: 'EXBULB', qty: '1' }]
		}
	},
	{
		call: 'POST /api/v1/items',
		body: {
			...{ code: 'EXMIX', name: 'Enamel', unit: 'kg', decimals: 3, tracking: 'lot' },
			parts: [{ item: 'EXWIRE', qty: '1' }]
		}
	},
	{ call: 'POST /api/v1/items', body: { code: 'EXRAG', name: 'Off-cut', unit: 'kg', decimals: 3, tracking: 'lot' } },
	{ call: 'POST /api/v1/items', body: { code: 'EXCAP', name: 'Cap', unit: 'each', tracking: 'none' } },
	{ call: 'PATCH /api/v1/items/{item}', params: { item: 'EXLAMP' }, body: { warranty: 'P24M' } },
	{
		call: 'PUT /api/v1/items/{item}/picture',
		params: { item: 'EXLAMP' },
		body: { name: 'lamp.png', content: DOT }
	},
	{ call: 'GET /api/v1/items' },
	{
		call: 'PUT /api/v1/people/{login}',
		params: { login: 'ada' },
		body: { name: 'Ada Brook', role: 'assembly', password: 'a long password' },
		as: 'administrator'
	},
	{ call: 'POST /api/v1/tokens', body: { name: 'Scale', role: 'assembly', ends: '2099-12-31' }, as: 'administrator' },
	{ call: 'GET /api/v1/lists/access', name: 'accesses', query: { find: 'Scale' }, as: 'administrator' },
	{
		call: 'DELETE /api/v1/tokens/{token}',
		params: { token: '17' },
		from: { 'params.token': 'accesses.rows.0.id' },
		as: 'administrator'
	},
	{ call: 'PUT /api/v1/ledger/witness', body: { address: 'notary@example.org' } },
	{ call: 'POST /api/v1/ledger/witness' },

	// What comes.
	{
		call: 'POST /api/v1/orders',
		body: order('EX-PO-1', 'purchase', {
			...{ partner: 'EXSUP', due: '2026-12-01' },
			lines: [
				{ item: 'EXWIRE', qty: '20' },
				{ item: 'EXBULB', qty: '12' }
			]
		})
	},
	{
		call: 'POST /api/v1/notices',
		body: { order: 'EX-PO-1', name: 'notice.csv', text: 'item,lot,qty\nEXWIRE,W-1,20', enter: true }
	},
	{
		call: 'PUT /api/v1/orders/{order}/rows',
		params: { order: 'EX-PO-1' },
		body: {
			rows: [
				{ line: 1, lot: 'W-1', qty: '20' },
				{ line: 2, serial: 'B-01', count: 11 }
			]
		}
	},
	{ call: 'GET /api/v1/orders/{order}', name: 'buying', params: { order: 'EX-PO-1' } },
	{
		call: 'POST /api/v1/orders/{order}/scans',
		params: { order: 'EX-PO-1' },
		body: scan(1, 'B-12', { lineId: '9' }),
		from: { 'body.lineId': 'buying.lines.1.id' }
	},
	{
		call: 'DELETE /api/v1/orders/{order}/scans/{scan}',
		params: { order: 'EX-PO-1', scan: '00000000-0000-4000-8000-000000000001' }
	},
	{
		call: 'POST /api/v1/orders/{order}/scans',
		params: { order: 'EX-PO-1' },
		body: scan(5, 'B-12', { lineId: '9' }),
		from: { 'body.lineId': 'buying.lines.1.id' }
	},
	{
		call: 'POST /api/v1/orders/{order}/todo',
		params: { order: 'EX-PO-1' },
		body: { what: 'Ask for the certificate' }
	},
	{
		call: 'POST /api/v1/orders/{order}/book',
		name: 'receipt',
		params: { order: 'EX-PO-1' },
		body: { key: 'ex-receipt' }
	},
	{ call: 'GET /api/v1/orders/{order}', name: 'bought', params: { order: 'EX-PO-1' } },
	{
		call: 'POST /api/v1/orders/{order}/noted',
		params: { order: 'EX-PO-1' },
		body: { key: 'ex-invoice', what: 'invoice', number: 'INV-1' }
	},
	{
		call: 'POST /api/v1/events',
		body: {
			...{ key: 'ex-event', kind: 'receipt', at: NOW, partner: 'EXSUP' },
			movements: [
				{ item: 'EXCAP', qty: '30', from: '@supplier', to: 'EX/A1' },
				{ item: 'EXWIRE', lot: 'W-2', qty: '5', from: '@supplier', to: 'EX/A1' }
			]
		}
	},
	{
		call: 'POST /api/v1/orders',
		body: order('EX-PO-2', 'purchase', { partner: 'EXSUP', lines: [{ item: 'EXWIRE', qty: '1' }] })
	},
	{
		call: 'POST /api/v1/orders/{order}/close',
		params: { order: 'EX-PO-2' },
		body: { key: 'ex-close', reason: 'They have none left' }
	},
	{ call: 'GET /api/v1/marks', name: 'wire', query: { find: 'W-1' } },
	{ call: 'GET /api/v1/marks', name: 'older', query: { find: 'W-2' } },
	{ call: 'GET /api/v1/marks', name: 'bulbs', query: { find: 'B-', sort: 'number' } },
	{ call: 'GET /api/v1/marks/{id}', params: { id: '17' }, from: { 'params.id': 'wire.marks.0.id' } },
	{
		call: 'POST /api/v1/marks/{id}/notes',
		params: { id: '17' },
		body: { text: 'The coil is dented.' },
		from: { 'params.id': 'wire.marks.0.id' }
	},
	{
		call: 'POST /api/v1/marks/{id}/files',
		params: { id: '17' },
		body: { name: 'certificate.png', content: DOT },
		from: { 'params.id': 'wire.marks.0.id' }
	},
	{
		call: 'GET /api/v1/marks/{id}/notes',
		name: 'notes',
		params: { id: '17' },
		from: { 'params.id': 'wire.marks.0.id' }
	},
	{ call: 'GET /api/v1/files/{id}', params: { id: '3' }, from: { 'params.id': 'notes.files.0.id' } },
	{
		call: 'POST /api/v1/marks/{id}/facts',
		params: { id: '17' },
		body: { key: 'ex-fact', code: 'EXHEAT', value: 'H-4711' },
		from: { 'params.id': 'wire.marks.0.id' }
	},
	{
		call: 'POST /api/v1/status',
		body: { key: 'ex-hold', item: 'EXBULB', serial: 'B-12', act: 'hold', reason: 'Scratched' }
	},
	{
		call: 'POST /api/v1/corrections',
		body: {
			...{ key: 'ex-correction', item: 'EXWIRE', lot: 'W-2', field: 'supplierLot', value: 'S-88' },
			reason: 'It stands so on the coil'
		}
	},
	{ call: 'POST /api/v1/labels', name: 'job', body: { place: 'EX/A1' } },
	{ call: 'GET /api/v1/labels/{id}', params: { id: '1' }, from: { 'params.id': 'job.id' } },
	{ call: 'POST /api/v1/labels/{id}', params: { id: '1' }, from: { 'params.id': 'job.id' } },
	{
		call: 'POST /api/v1/labels',
		name: 'many',
		body: { event: '17', copies: 100 },
		from: { 'body.event': 'receipt.id' }
	},
	{ call: 'DELETE /api/v1/labels/{id}', params: { id: '3' }, from: { 'params.id': 'many.id' } },

	// What is moved and counted.
	{
		call: 'POST /api/v1/moves',
		body: {
			...{ key: 'ex-move', from: 'EX/A1' },
			rows: [{ kind: 'lot', item: 'EXWIRE', number: 'W-2', count: 1, lot: null, qty: '5', to: 'EX/A2' }]
		}
	},
	{ call: 'POST /api/v1/counts', name: 'count', body: { place: 'EX/A2', items: ['EXWIRE'] } },
	{
		call: 'POST /api/v1/counts/{count}/entries',
		params: { count: 'CT-0001' },
		body: { ...scan(2, 'W-2'), place: 'EX/A2', qty: '5' },
		from: { 'params.count': 'count.code' }
	},
	{
		call: 'POST /api/v1/counts/{count}/total',
		params: { count: 'CT-0001' },
		body: { place: 'EX/A2', item: 'EXWIRE', total: '5' },
		from: { 'params.count': 'count.code' }
	},
	{
		call: 'POST /api/v1/counts/{count}/rest',
		params: { count: 'CT-0001' },
		body: { place: 'EX/A2' },
		from: { 'params.count': 'count.code' }
	},
	{
		call: 'GET /api/v1/counts/{count}',
		name: 'counted',
		params: { count: 'CT-0001' },
		from: { 'params.count': 'count.code' }
	},
	{
		call: 'POST /api/v1/counts/{count}/book',
		params: { count: 'CT-0001' },
		body: { key: 'ex-count', stamp: 'as GET gave it', reasons: {} },
		from: { 'params.count': 'count.code', 'body.stamp': 'counted.stamp' }
	},
	{ call: 'POST /api/v1/moves/all', body: { key: 'ex-empty', from: 'EX/A2', to: 'EX/A1' } },
	{
		call: 'POST /api/v1/orders',
		body: order('EX-TR-1', 'transfer', { site: 'EX', to: 'EY/B1', lines: [{ item: 'EXWIRE', qty: '3' }] })
	},
	{
		call: 'POST /api/v1/orders/{order}/book',
		params: { order: 'EX-TR-1' },
		body: { key: 'ex-transfer', mode: 'use', suggested: true }
	},
	{
		call: 'POST /api/v1/orders/{order}/transit',
		params: { order: 'EX-TR-1' },
		body: { key: 'ex-transit', became: 'back', reason: 'The van broke down' }
	},

	// What is made.
	{ call: 'GET /api/v1/shortages' },
	{
		call: 'POST /api/v1/shortages',
		body: { place: 'EX/A1', dueOn: '2026-12-10', lines: [{ item: 'EXBULB', qty: '4', supplier: 'EXSUP' }] }
	},
	{
		call: 'POST /api/v1/orders',
		body: order('EX-MO-1', 'production', { lines: [{ item: 'EXMIX', qty: '4' }] })
	},
	{
		call: 'POST /api/v1/orders/{order}/beside',
		params: { order: 'EX-MO-1' },
		body: { item: 'EXRAG', qty: '1' }
	},
	{
		call: 'POST /api/v1/orders/{order}/book',
		params: { order: 'EX-MO-1' },
		body: { key: 'ex-use', mode: 'use' }
	},
	{
		call: 'POST /api/v1/orders/{order}/back',
		params: { order: 'EX-MO-1' },
		body: { key: 'ex-back', rows: [{ mark: '17', qty: '1', place: 'EX/A1' }] },
		from: { 'body.rows.0.mark': 'older.marks.0.id' }
	},
	{
		call: 'POST /api/v1/orders',
		body: order('EX-MO-2', 'production', { lines: [{ item: 'EXLAMP', qty: '5' }] })
	},
	{
		call: 'PUT /api/v1/routes/{item}',
		params: { item: 'EXLAMP' },
		body: { operations: [{ code: 'TEST', name: 'Test' }] }
	},
	{ call: 'POST /api/v1/orders/{order}/cards', params: { order: 'EX-MO-2' }, body: { more: 0 } },
	{ call: 'POST /api/v1/stations/{station}/scans', params: { station: 'EX1' }, body: scan(3, 'LM-0001') },
	{
		call: 'POST /api/v1/stations/{station}/scans',
		params: { station: 'EX1' },
		body: scan(4, 'B-01', { before: { order: 'EX-MO-2', serial: 'LM-0001' } })
	},
	{
		call: 'POST /api/v1/stations/{station}/undo',
		params: { station: 'EX1' },
		body: { order: 'EX-MO-2', serial: 'LM-0001' }
	},
	{
		call: 'POST /api/v1/orders/{order}/pairs',
		params: { order: 'EX-MO-2' },
		body: {
			rows: [
				{ unit: 'LM-0001', part: 'B-01' },
				{ unit: 'LM-0002', part: 'B-02' },
				{ unit: 'LM-0003', part: 'B-03' },
				{ unit: 'LM-0004', part: 'B-04' }
			]
		}
	},
	{
		call: 'POST /api/v1/reviews/back',
		body: { order: 'EX-MO-2', serials: ['LM-0001'], why: 'The bulb is loose' }
	},
	{ call: 'POST /api/v1/reviews/take', body: { order: 'EX-MO-2', serial: 'LM-0001' } },
	{ call: 'POST /api/v1/reviews/desk', body: { order: 'EX-MO-2', serial: 'LM-0004' } },
	{ call: 'POST /api/v1/reviews', body: { key: 'ex-review', units: [{ order: 'EX-MO-2' }] } },
	{
		call: 'POST /api/v1/steps',
		body: { key: 'ex-step', at: NOW, item: 'EXLAMP', serial: 'LM-0001', act: 'release' }
	},
	{ call: 'GET /api/v1/steps', query: { item: 'EXLAMP', serial: 'LM-0001' } },
	{ call: 'GET /api/v1/floor' },
	{ call: 'GET /api/v1/yield', query: { item: 'EXLAMP', from: '2026-11-01', to: '2026-11-30' } },
	{ call: 'POST /api/v1/numbers/draw', body: { item: 'EXLAMP', count: 2, for: 'EX-MO-2' } },
	{ call: 'GET /api/v1/marks', name: 'lamps', query: { find: 'LM-000', sort: 'number' } },
	{
		call: 'POST /api/v1/marks/{id}/parts',
		params: { id: '31' },
		body: {
			...{ key: 'ex-parts', reason: 'The bulb was dim' },
			parts: [{ mark: '18', to: 'scrap', instead: 'B-05' }]
		},
		from: { 'params.id': 'lamps.marks.2.id', 'body.parts.0.mark': 'bulbs.marks.2.id' }
	},
	{
		call: 'PATCH /api/v1/items/{item}',
		params: { item: 'EXCAP' },
		body: { tracking: 'lot', lotPattern: 'EXL' }
	},
	{ call: 'POST /api/v1/numberings', name: 'numberings', body: { item: 'EXCAP' } },
	{
		call: 'GET /api/v1/orders/{order}',
		name: 'numbering',
		params: { order: 'NR-0001' },
		from: { 'params.order': 'numberings.orders.0' }
	},
	{
		call: 'POST /api/v1/orders/{order}/draw',
		params: { order: 'NR-0001' },
		body: { line: '9', count: 1, qty: '30' },
		from: { 'params.order': 'numberings.orders.0', 'body.line': 'numbering.lines.0.id' }
	},

	// What goes.
	{
		call: 'POST /api/v1/allocations',
		body: { item: 'EXLAMP', qty: '1', site: 'EX', customer: 'EXCUS', purpose: 'shipment' }
	},
	{
		call: 'POST /api/v1/orders',
		body: order('EX-SO-1', 'sale', { site: 'EX', partner: 'EXCUS', lines: [{ item: 'EXLAMP', qty: '2' }] })
	},
	{ call: 'GET /api/v1/orders/{order}', name: 'sale', params: { order: 'EX-SO-1' } },
	{
		call: 'POST /api/v1/orders/{order}/agreed',
		params: { order: 'EX-SO-1' },
		body: { line: '9', warranty: 'P36M', price: '120.00' },
		from: { 'body.line': 'sale.lines.0.id' }
	},
	{ call: 'POST /api/v1/orders/{order}/way', params: { order: 'EX-SO-1' }, body: { way: 'EXROAD' } },
	{
		call: 'POST /api/v1/promises',
		name: 'promise',
		body: { key: 'ex-promise', order: 'EX-SO-1', line: 1, item: 'EXLAMP', serial: 'LM-0001' }
	},
	{ call: 'GET /api/v1/promises', query: { count: '10' } },
	{ call: 'DELETE /api/v1/promises/{id}', params: { id: '12' }, from: { 'params.id': 'promise.id' } },
	{
		call: 'POST /api/v1/orders/{order}/promises',
		params: { order: 'EX-SO-1' },
		body: { key: 'ex-promises', line: '9', picks: [{ mark: '31', qty: '1' }] },
		from: { 'body.line': 'sale.lines.0.id', 'body.picks.0.mark': 'lamps.marks.1.id' }
	},
	{ call: 'GET /api/v1/promises', name: 'promised' },
	{
		call: 'POST /api/v1/orders/{order}/release',
		params: { order: 'EX-SO-1' },
		body: ['13'],
		from: { 'body.0': 'promised.promises.0.id' }
	},
	{
		call: 'POST /api/v1/orders/{order}/sign',
		params: { order: 'EX-SO-1' },
		body: {
			...{ meaning: 'terms', signer: 'Kit Vane', withoutNumber: true },
			strokes: [
				[
					{ x: 10, y: 40 },
					{ x: 60, y: 20 },
					{ x: 120, y: 45 }
				]
			]
		}
	},
	{
		call: 'PUT /api/v1/orders/{order}/rows',
		params: { order: 'EX-SO-1' },
		body: { rows: [{ line: 1, serial: 'LM-0001' }] }
	},
	{
		call: 'POST /api/v1/orders/{order}/swap',
		params: { order: 'EX-SO-1' },
		body: { key: 'ex-swap', line: '9', out: { mark: '31', place: 'EX/A1' }, in: { mark: '32', place: 'EX/A1' } },
		from: {
			'body.line': 'sale.lines.0.id',
			'body.out.mark': 'lamps.marks.0.id',
			'body.in.mark': 'lamps.marks.1.id'
		}
	},
	{ call: 'POST /api/v1/shipments', body: { key: 'ex-ship', orders: [{ code: 'EX-SO-1' }] }, name: 'shipped' },
	{
		call: 'GET /api/v1/orders/{order}/paper',
		params: { order: 'EX-SO-1' },
		query: { paper: 'packing list', event: '40' },
		from: { 'query.event': 'shipped.id' }
	},
	{ call: 'GET /api/v1/orders/{order}', name: 'gone', params: { order: 'EX-SO-1' } },
	{
		call: 'GET /api/v1/papers/{id}',
		params: { id: '2' },
		from: { 'params.id': 'gone.events.0.papers.0.id' }
	},
	{
		call: 'POST /api/v1/orders/{order}/undo',
		params: { order: 'EX-SO-1' },
		body: { key: 'ex-undo', event: '40', reason: 'The wrong van' },
		from: { 'body.event': 'shipped.id' }
	},
	{
		call: 'POST /api/v1/orders',
		body: order('EX-PO-3', 'purchase', { site: 'EY/B1', partner: 'EXSUP', lines: [{ item: 'EXRAG', qty: '2' }] })
	},
	{
		call: 'PUT /api/v1/orders/{order}/rows',
		params: { order: 'EX-PO-3' },
		body: { rows: [{ line: 1, lot: 'R-1', qty: '2' }] }
	},
	{ call: 'POST /api/v1/orders/{order}/book', params: { order: 'EX-PO-3' }, body: { key: 'ex-rags' } },
	{
		call: 'POST /api/v1/orders',
		body: order('EX-SO-2', 'sale', { site: 'EY', partner: 'EXCUS', lines: [{ item: 'EXRAG', qty: '1' }] })
	},
	{
		call: 'POST /api/v1/orders/{order}/book',
		params: { order: 'EX-SO-2' },
		body: { key: 'ex-pick', mode: 'use', suggested: true }
	},
	{ call: 'POST /api/v1/orders/{order}/putback', params: { order: 'EX-SO-2' }, body: { key: 'ex-putback' } },

	// What is asked.
	{ call: 'GET /api/v1/find', query: { q: 'LM-0001' } },
	{ call: 'GET /api/v1/stock', query: { item: 'EXWIRE' } },
	{ call: 'GET /api/v1/events', query: { count: '5' } },
	{ call: 'GET /api/v1/marks/{id}/events', params: { id: '17' }, from: { 'params.id': 'wire.marks.0.id' } },
	{ call: 'GET /api/v1/trace', query: { direction: 'forward', item: 'EXBULB', serial: 'B-02' } },
	{ call: 'GET /api/v1/pairings', query: { item: 'EXLAMP' } },
	{ call: 'GET /api/v1/ledger/head', name: 'head' },
	{ call: 'GET /api/v1/ledger/entries', query: { from: '0', count: '2' } },
	{
		call: 'GET /api/v1/ledger/inclusion',
		query: { event: '17' },
		from: { 'query.event': 'receipt.id' }
	},
	{ call: 'GET /api/v1/ledger/consistency', query: { from: '1' } }
];
