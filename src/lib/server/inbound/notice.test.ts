import { beforeAll, describe, expect, it } from 'vitest';
import { ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { epcisFaults, noticeDocument } from '../../../../tests/epcis.ts';
import { gs1CheckDigit } from '../../core/codes/check.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import { createItem } from '../setup/items.ts';
import { jobLabels, printLabels } from '../labels/jobs.ts';
import { savePolicy } from '../setup/policy.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { enterAnnounced, takeNotice } from './notice.ts';
import { takeScan } from '../../../../tests/db/sheets.ts';

const db = testDatabase();
const gtin = (n: number) => `09506000${n}` + gs1CheckDigit(`09506000${n}`);
const sscc = '376104250021234569';
beforeAll(async () => {
	for (const code of ['QS', 'QS/DOCK']) await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'S', name: 'Supplier', kind: 'supplier' });
	await createItem(db.sql, 'ines', {
		code: 'BOARD',
		name: 'Board',
		unit: 'each',
		decimals: 0,
		tracking: 'lot and serial',
		gtin: gtin(10_001)
	});
	await createItem(db.sql, 'ines', {
		code: 'SALT',
		name: 'Salt',
		unit: 'kg',
		decimals: 3,
		tracking: 'lot',
		expiry: 'required',
		gtin: gtin(10_002)
	});
});
async function delivery() {
	const lines = [
		{ item: 'BOARD', qty: '6' },
		{ item: 'SALT', qty: '50' }
	];
	const code = await createDocument(db.sql, 'ines', { kind: 'purchase', partner: 'S', place: 'QS/DOCK', lines });
	return (await getOrder(db.sql, code))!;
}
const csv = [
	'item,sscc,lot,serial,quantity,expiry',
	...[1, 2, 3].map((n) => `BOARD,${sscc},B-1,VB-${n},,`),
	...[4, 5, 6].map((n) => `${gtin(10_001)},,B-2,VB-${n},,`),
	`SALT,${sscc},K-1,,30,2028-01-31`,
	`SALT,,K-2,,20,2028-02-29`
].join('\n');
const scan = async (code: string, text: string, lineId?: string, lot?: string) =>
	takeScan(db.sql, 'ines', (await getOrder(db.sql, code))!, { id: crypto.randomUUID(), text, lineId, lot });

describe('an advance notice', () => {
	it('becomes ticking off by scan: expected, arrived, missing, not announced', async () => {
		const o = await delivery();
		expect(await takeNotice(db.sql, 'ines', o, { name: 'notice.csv', text: csv })).toBe(
			'notice.csv announces 8 numbers on 1 pallet.'
		);
		expect((await sheetState(db.sql, o.code)).lines[0].announced).toMatchObject({
			expected: 6,
			arrived: 0,
			missing: ['VB-1 … VB-6'],
			pallets: [sscc]
		});
		expect((await scan(o.code, `(00)${sscc}`)).said).toBe(`Pallet ${sscc}: 4 announced numbers entered`);
		expect((await scan(o.code, `(00)${sscc}`)).said).toContain('is in the sheet already');
		expect((await scan(o.code, 'VB-5', o.lines[0].id, 'B-2')).taken).toBe(true);
		expect((await scan(o.code, 'VB-9', o.lines[0].id, 'B-2')).taken).toBe(true);
		const sheet = await sheetState(db.sql, o.code);
		expect(sheet.lines[0].announced).toMatchObject({ arrived: 4, missing: ['VB-4', 'VB-6'], extra: ['VB-9'] });
		expect(sheet.lines[0].rows.at(-1)!.findings).toMatchObject([
			{ level: 'note', message: 'Serial VB-9 was not announced. Check the label.' }
		]);
		expect(sheet.lines[1]).toMatchObject({
			announced: { expected: 2, arrived: 1, missing: ['K-2: 20 kg'] },
			rows: [{ lot: 'K-1', qty: '30', expiresOn: '2028-01-31' }]
		});
		// What is booked stays arrived; the rest is still expected.
		await bookSheet(db.sql, ines, o.code, { key: crypto.randomUUID(), stamp: sheet.stamp });
		expect((await sheetState(db.sql, o.code)).lines[0].announced).toMatchObject({
			arrived: 4,
			missing: ['VB-4', 'VB-6']
		});
		const { numbers } = await enterAnnounced(db.sql, 'ines', (await getOrder(db.sql, o.code))!, {
			lineId: o.lines[0].id
		});
		expect(numbers).toBe(2);
	});
	it('comes as EPCIS too, and a newer one takes the place of an earlier one', async () => {
		const o = await delivery();
		await takeNotice(db.sql, 'ines', o, { name: 'first.csv', text: csv });
		const document = noticeDocument({
			gtin: gtin(10_001),
			serials: ['S-1', 'S-2'],
			lot: 'L',
			expires: '2099-01-31',
			bulk: { gtin: gtin(10_002), lot: 'K-1', quantity: 5 },
			pallet: '376104250021234569',
			packed: 2
		});
		expect(epcisFaults(document)).toEqual([]);
		expect(await takeNotice(db.sql, 'ines', o, { name: 'second.json', text: JSON.stringify(document) })).toBe(
			'second.json announces 3 numbers on 1 pallet.'
		);
		expect((await sheetState(db.sql, o.code)).notice).toMatchObject({ name: 'second.json' });
		expect((await sheetState(db.sql, o.code)).lines[0].announced).toMatchObject({ expected: 2 });
	});
	it.each([
		['not json', '{"epcisBody": ', 'cannot be read as such'],
		['another item', 'item,qty\nNOPE,1', 'row 2: NOPE is not on'],
		['a wrong quantity', 'item,lot,qty\nSALT,K,1.23456', 'row 2: 1.23456 has 5 decimals'],
		['nothing', 'item,qty\n', 'announces nothing']
	])('%s: refused with the row, and nothing is taken', async (_what, text, sentence) => {
		const o = await delivery();
		await expect(takeNotice(db.sql, 'ines', o, { name: 'x', text })).rejects.toThrow(sentence);
		expect((await sheetState(db.sql, o.code)).notice).toBeUndefined();
	});
	it('what was not announced is a note, a reason or a stop by policy', async () => {
		const o = await delivery();
		await takeNotice(db.sql, 'ines', o, { name: 'notice.csv', text: csv });
		await scan(o.code, 'VB-99', o.lines[0].id, 'B-1');
		const level = async () =>
			(await sheetState(db.sql, o.code)).lines[0].rows[0].findings.find((f) => f.message.includes('announced'));
		expect(await level()).toMatchObject({ level: 'note', message: 'Serial VB-99 was not announced. Check the label.' });
		await savePolicy(db.sql, 'ines', { 'not announced': 'stop' });
		expect(await level()).toMatchObject({ level: 'stop', message: expect.stringContaining('or put it aside') });
		await savePolicy(db.sql, 'ines', { 'not announced': 'note' });
	});
	it('a label is printed for a pallet that was announced, and for no other', async () => {
		const job = await printLabels(db.sql, 'ines', { pallet: sscc, size: '148 × 105' });
		expect(job).toMatchObject({ title: sscc, label: '148 × 105', size: 1 });
		expect((await jobLabels(db.sql, job.id))!.labels[0].reads).toBe(`]d200${sscc}`);
		await expect(printLabels(db.sql, 'ines', { pallet: '106141412345678908' })).rejects.toThrow(
			'No pallet 106141412345678908 is announced'
		);
		await expect(printLabels(db.sql, 'ines', { pallet: '376104250021234560' })).rejects.toThrow('is not an SSCC');
	});
});
