import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { addDuration } from '../../core/dates/dates.ts';
import { createItem } from '../setup/items.ts';
import { saveFact } from '../setup/facts.ts';
import { saveKind } from '../setup/kinds.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { nothing, STEPS } from '../../core/marking/rule.ts';
import { savePattern } from '../numbering/patterns.ts';
import { createDocument } from '../document/create.ts';
import { saveRows, type RowData } from './drafts.ts';
import { getOrder } from '../document/orders.ts';
import { bookSheet, sheetState } from './state.ts';

/** Every check that a marking sheet makes of a number as it arrives, each provoked, with the sentence that it says. */
const db = testDatabase();
const now = new Date();
const later = addDuration(now.toISOString().slice(0, 10), 'P24M');
async function sheetWith(
	item: string,
	qty: string,
	rows: RowData[],
	kind: 'purchase' | 'sale' | 'production' = 'purchase'
) {
	const partner = { purchase: 'S', sale: 'C', production: null }[kind];
	const code = await createDocument(db.sql, 'ines', { kind, partner, place: 'QS/DOCK', lines: [{ item, qty }] });
	const order = (await getOrder(db.sql, code))!;
	await saveRows(
		db.sql,
		'ines',
		order,
		rows.map((data) => ({ id: randomUUID(), lineId: order.lines[0].id, version: 0, data }))
	);
	const state = await sheetState(db.sql, code);
	return { code, state, findings: state.lines[0].rows.flatMap((r) => r.findings) };
}

beforeAll(async () => {
	for (const code of ['QS', 'QS/DOCK', 'QS/A1', 'ND', 'ND/B1']) await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'S', name: 'Supplier', kind: 'supplier' });
	await addPartner(db.sql, 'ines', { code: 'C', name: 'Thornmere Utilities', kind: 'customer' });
	await savePattern(db.sql, 'ines', {
		code: 'CHK',
		name: 'x',
		blocks: [
			{ kind: 'text', text: 'P' },
			{ kind: 'sequence', digits: 4, reset: 'never' },
			{ kind: 'check', method: 'Luhn' }
		]
	});
	await saveFact(db.sql, 'ines', {
		code: 'TEMP',
		name: 'Temperature',
		kind: 'number',
		unit: '°C',
		decimals: 1,
		high: '8',
		outside: 'stop'
	});
	await saveKind(db.sql, 'ines', {
		code: 'COLD',
		name: 'Cold',
		rules: STEPS.map((s) => ({
			...nothing(s),
			lot: 'required',
			...(s === 'receipt' ? { facts: { TEMP: 'required' as const } } : {})
		}))
	});
	const each = { unit: 'each', decimals: 0 };
	await createItem(db.sql, 'ines', { code: 'UNIT', name: 'Unit', ...each, tracking: 'serial' });
	await createItem(db.sql, 'ines', { code: 'OTHER', name: 'Other unit', ...each, tracking: 'serial' });
	await createItem(db.sql, 'ines', {
		code: 'SOLE',
		name: 'Sole',
		...each,
		tracking: 'serial',
		serialsUniqueEverywhere: true
	});
	await createItem(db.sql, 'ines', {
		code: 'CHECKED',
		name: 'Checked',
		...each,
		tracking: 'serial',
		serialPattern: 'CHK'
	});
	await createItem(db.sql, 'ines', {
		code: 'SALT',
		name: 'Salt',
		unit: 'kg',
		decimals: 3,
		tracking: 'lot',
		expiry: 'required',
		leastLeft: 'P6M'
	});
	await createItem(db.sql, 'ines', {
		code: 'MADE',
		name: 'Made',
		unit: 'kg',
		decimals: 3,
		tracking: 'lot',
		expiry: 'asked',
		shelfLife: 'P12M',
		parts: [{ item: 'SALT', qty: '1' }]
	});
	await createItem(db.sql, 'ines', {
		code: 'ICE',
		name: 'Ice',
		unit: 'kg',
		decimals: 3,
		tracking: 'lot',
		kind: 'COLD'
	});
	const receipt = (item: string, more: object) =>
		bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S',
			movements: [{ item, qty: 1, from: '@supplier', to: 'QS/A1', ...more }]
		});
	for (const serial of ['U-1', 'U-2', 'U-3']) await receipt('UNIT', { serial });
	await receipt('SALT', { lot: 'K-1', qty: 5, expiresOn: later });
	await bookTest(db.sql, {
		kind: 'shipment',
		partner: 'C',
		movements: [{ item: 'UNIT', serial: 'U-2', qty: 1, from: 'QS/A1', to: '@customer' }]
	});
	await bookTest(db.sql, {
		kind: 'scrap',
		reason: 'dropped',
		movements: [{ item: 'UNIT', serial: 'U-3', qty: 1, from: 'QS/A1', to: '@scrap' }]
	});
});

const day = '\\d+ \\w{3} \\d{4}';
describe('a number as it arrives', () => {
	it.each([
		[
			'twice in this sheet',
			'UNIT',
			[{ serial: 'U-8', count: 2 }, { serial: 'U-9' }],
			'stop',
			'Serial U-9 stands here twice. Remove one.'
		],
		[
			'a lot twice',
			'SALT',
			[
				{ lot: 'L', qty: '1', expiresOn: later },
				{ lot: 'L', qty: '1', expiresOn: later }
			],
			'stop',
			'Lot L stands in this sheet already. Put its whole quantity in one row, or name another bin.'
		],
		[
			'on hand',
			'UNIT',
			[{ serial: 'U-1' }],
			'stop',
			`Serial U-1 is already on hand at QS/A1 since ${day}. Scan another, or open it.`
		],
		[
			'shipped',
			'UNIT',
			[{ serial: 'U-2' }],
			'stop',
			`Serial U-2 was shipped to Thornmere Utilities on ${day}. Enter it as a return.`
		],
		['scrapped', 'UNIT', [{ serial: 'U-3' }], 'stop', `Serial U-3 was scrapped on ${day}. Check the number.`],
		[
			'of another item',
			'OTHER',
			[{ serial: 'U-1' }],
			'reason',
			'Serial U-1 is known as a serial of Unit. Check the label, or say why it is right.'
		],
		[
			'of another item, where that is never right',
			'SOLE',
			[{ serial: 'U-1' }],
			'stop',
			'Serial U-1 is used by item UNIT already, and must be unique over all items. Give another.'
		],
		['a wrong length', 'CHECKED', [{ serial: 'P00012' }], 'stop', 'P00012 '],
		['a wrong check character', 'CHECKED', [{ serial: 'P00010' }], 'stop', 'check'],
		['wrong signs', 'CHECKED', [{ serial: 'PABCD5' }], 'stop', 'PABCD5'],
		['too long', 'UNIT', [{ serial: 'X'.repeat(61) }], 'stop', 'has 61 characters; a number has at most 60'],
		['a blank in it', 'UNIT', [{ serial: 'U 9' }], 'stop', '“U 9” has a blank in it. Type each number apart.'],
		[
			'the supplier’s has nothing to count on',
			'UNIT',
			[{ serial: 'U-50', count: 3, supplierSerial: 'TX' }],
			'stop',
			'The supplier’s serial TX has no digits to count on from'
		],
		[
			'no expiry',
			'SALT',
			[{ lot: 'L', qty: '1' }],
			'stop',
			'Lot L needs an expiry date at receipt. Type it from the label.'
		],
		[
			'an expiry that is no date',
			'SALT',
			[{ lot: 'L', qty: '1', expiresOn: '31.02.2027' }],
			'stop',
			'Lot L, expiry: There is no 31.02.2027 in the calendar'
		],
		[
			'an expiry in the past',
			'SALT',
			[{ lot: 'L', qty: '1', expiresOn: '2020-01-01' }],
			'reason',
			'Lot L expired on 1 Jan 2020. Say why it is taken in, or send it back.'
		],
		[
			'an expiry too soon',
			'SALT',
			[{ lot: 'L', qty: '1', expiresOn: addDuration(now.toISOString().slice(0, 10), 'P2M') }],
			'reason',
			`Lot L expires on ${day}; 6 months must be left at receipt. Say why`
		],
		[
			'an expiry before it was made',
			'SALT',
			[{ lot: 'L', qty: '1', madeOn: now.toISOString().slice(0, 10), expiresOn: now.toISOString().slice(0, 10) }],
			'stop',
			'before it was made. Check the dates.'
		],
		[
			'made tomorrow',
			'SALT',
			[{ lot: 'L', qty: '1', madeOn: addDuration(now.toISOString().slice(0, 10), 'P1D'), expiresOn: later }],
			'stop',
			'lies ahead. Check the date.'
		],
		[
			'another expiry than recorded',
			'SALT',
			[{ lot: 'K-1', qty: '1', expiresOn: addDuration(later, 'P1D') }],
			'stop',
			`Lot K-1 is recorded to expire ${day}, not ${day}. Take the recorded date, or another number.`
		],
		['a known lot', 'SALT', [{ lot: 'K-1', qty: '1' }], 'note', 'Lot K-1 is known: 5 kg on hand. This adds to it.'],
		[
			'a quantity below zero',
			'SALT',
			[{ lot: 'L', qty: '-5', expiresOn: later }],
			'stop',
			'-5 is below zero. A quantity is more than zero.'
		],
		[
			'too many decimals',
			'SALT',
			[{ lot: 'L', qty: '1.2345', expiresOn: later }],
			'stop',
			'1.2345 has 4 decimals; kg has 3.'
		],
		[
			'no lot',
			'SALT',
			[{ qty: '1', expiresOn: later }],
			'stop',
			'SALT needs a lot at receipt. Scan or type it from the label.'
		],
		[
			'a fact outside its limits',
			'ICE',
			[{ lot: 'I', qty: '1', facts: { TEMP: '9' } }],
			'stop',
			'Lot I: Temperature 9 °C is outside at most 8 °C. Put it aside, or measure again.'
		],
		['a fact that is missing', 'ICE', [{ lot: 'I', qty: '1' }], 'stop', 'Lot I: Temperature is missing. Type it in.'],
		[
			'a fact that is none',
			'ICE',
			[{ lot: 'I', qty: '1', facts: { TEMP: 'cold' } }],
			'stop',
			'Lot I: Temperature: “cold” is not a number.'
		],
		[
			'a bin that is none',
			'UNIT',
			[{ serial: 'U-60', place: 'QS/Z9' }],
			'stop',
			'There is no place QS/Z9. Add it in Setup, or correct the code.'
		],
		['a bin elsewhere', 'UNIT', [{ serial: 'U-60', place: 'ND/B1' }], 'stop', 'ND/B1 is not at QS, where this arrives.']
	] as [string, string, RowData[], string, string][])('%s', async (_what, item, rows, level, sentence) => {
		const { code, state, findings } = await sheetWith(item, '100', rows);
		const plain = sentence.includes('\\')
			? expect.stringMatching(new RegExp(sentence.replace(/[.“”]/g, '.')))
			: expect.stringContaining(sentence);
		expect(findings).toContainEqual(expect.objectContaining({ level, message: plain }));
		if (level === 'note') return;
		// What stops it stops the button, from the first moment; what wants a reason is refused without one.
		expect(state.missing).toContainEqual(expect.objectContaining({ level }));
		expect(state.ready).toBe(level !== 'stop');
		await expect(bookSheet(db.sql, ines, code, { key: randomUUID(), stamp: state.stamp })).rejects.toThrow();
	});
	it('more than ordered wants a reason', async () => {
		const { state } = await sheetWith('UNIT', '1', [{ serial: 'U-70', count: 3 }]);
		expect(state.missing).toMatchObject([
			{ line: 1, level: 'reason', message: '2 more than ordered: say why, or remove them' }
		]);
	});
});

describe('an expiry date that is worked out', () => {
	const dated = async (data: RowData) => {
		const { code, state } = await sheetWith('MADE', '1', [{ lot: `M-${randomUUID().slice(0, 8)}`, qty: '1', ...data }]);
		return { code, row: state.lines[0].rows[0], state };
	};
	it('is shown with how it came about', async () => {
		const { row } = await dated({ madeOn: '2026-03-03' });
		expect(row).toMatchObject({
			expiresOn: '2027-03-03',
			expiryWorkedOut: true,
			expiryFrom: 'made 3 Mar 2026 + 12 months'
		});
	});
	it('typed over wants a reason, which is kept; from the supplier’s label it does not', async () => {
		const label = await dated({ expiresOn: later });
		expect(label.row.findings).toEqual([]);
		const changed = await dated({ expiresOn: later, expiryChanged: true });
		expect(changed.row.findings).toMatchObject([
			{
				level: 'reason',
				message: expect.stringMatching(/^Expiry changed from .* \(received today \+ 12 months\) to .*\. Say why\.$/)
			}
		]);
		const { id } = await bookSheet(db.sql, ines, changed.code, {
			key: randomUUID(),
			stamp: changed.state.stamp,
			reason: 'retest passed'
		});
		expect((await db.sql`SELECT reason FROM event WHERE id = ${id}`)[0].reason).toBe('retest passed');
	});
	it('of what is made wants one whenever another is typed', async () => {
		const { state } = await sheetWith('MADE', '1', [{ lot: 'M-OUT', qty: '1', expiresOn: later }], 'production');
		expect(state.lines[0].rows[0].findings).toMatchObject([
			{ level: 'reason', message: expect.stringContaining('made today + 12 months') }
		]);
	});
});

describe('a lot that goes to several bins at booking', () => {
	it('is one lot, each part where it was put', async () => {
		const row = (place: string, qty: string) => ({ lot: 'SPLIT', qty, expiresOn: later, ...(place ? { place } : {}) });
		const { code, state } = await sheetWith('SALT', '10', [row('QS/A1', '6'), row('', '4')]);
		expect(state.lines[0].bins).toEqual(['QS/A1']);
		await bookSheet(db.sql, ines, code, { key: randomUUID(), stamp: state.stamp });
		const there =
			await db.sql`SELECT p.code, trim_scale(b.qty)::text AS qty FROM balance b JOIN place p ON p.id = b.place_id AND NOT p.virtual JOIN mark k ON k.id = b.mark_id WHERE k.number = 'SPLIT' ORDER BY 1`;
		expect(there.map((t) => `${t.code} ${t.qty}`)).toEqual(['QS/A1 6', 'QS/DOCK 4']);
	});
});

describe('a run with a step', () => {
	it('books every so manieth serial, and finds one of them that is known', async () => {
		const { code, state } = await sheetWith('UNIT', '3', [{ serial: 'T-10', count: 3, step: 5 }]);
		expect(state.lines[0].rows[0]).toMatchObject({ last: 'T-20', step: 5, count: 3 });
		await bookSheet(db.sql, ines, code, { key: randomUUID(), stamp: state.stamp });
		expect(
			(await db.sql`SELECT number FROM mark WHERE number LIKE 'T-%' ORDER BY number`).map((m) => m.number)
		).toEqual(['T-10', 'T-15', 'T-20']);
		const again = await sheetWith('UNIT', '9', [{ serial: 'T-12', count: 2, step: 3 }]);
		expect(again.findings).toMatchObject([
			{ level: 'stop', message: expect.stringContaining('T-15 is already on hand') }
		]);
	});
});
