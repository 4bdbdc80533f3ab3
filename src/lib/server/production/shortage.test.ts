import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { setStatus } from '../ledger/changes.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { saveRows } from '../sheet/drafts.ts';
import { buyMissing, shortage } from './shortage.ts';

const db = testDatabase();
const UNTIL = '2026-12-31';
const of = async (item: string, order: string | null = null) =>
	(await shortage(db.sql, order, UNTIL)).find((r) => r.item === item);
const order = (kind: 'production' | 'purchase' | 'sale', lines: [string, string][], more: object = {}) =>
	createDocument(db.sql, 'ines', {
		...{ kind, place: kind === 'sale' ? 'QS' : 'QS/A1', dueOn: '2026-12-01', ...more },
		...(kind === 'production' ? {} : { partner: kind === 'sale' ? 'C1' : 'S1' }),
		lines: lines.map(([item, qty]) => ({ item, qty }))
	});
const markOf = async (number: string) => {
	const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`;
	return id;
};

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	for (const code of ['S1', 'S2']) await addPartner(db.sql, 'ines', { code, name: code, kind: 'supplier' });
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'C1', kind: 'customer' });
	const kg = { unit: 'kg', decimals: 3, tracking: 'lot' as const };
	await createItem(db.sql, 'ines', { code: 'RAW', name: 'Raw', ...kg });
	await createItem(db.sql, 'ines', { code: 'CAP', name: 'Cap', unit: 'each', tracking: 'none' });
	await createItem(db.sql, 'ines', { code: 'HALF', name: 'Half', ...kg, parts: [{ item: 'RAW', qty: '2' }] });
	await createItem(db.sql, 'ines', {
		...{ code: 'FULL', name: 'Full', ...kg },
		parts: [
			{ item: 'HALF', qty: '1.5' },
			{ item: 'CAP', qty: '4' }
		]
	});
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			{ item: 'RAW', lot: 'R1', qty: '5', from: '@supplier', to: 'QS/A1' },
			{ item: 'RAW', lot: 'R2', qty: '4', from: '@supplier', to: 'QS/A1', expiresOn: '2026-12-30' },
			{ item: 'RAW', lot: 'R3', qty: '3', from: '@supplier', to: 'QS/A1' }
		]
	});
});

describe('a shortage', () => {
	it('counts what open orders need by the day, and of what is there only what is free, released and in date by then', async () => {
		const first = await order('production', [['HALF', '4']]);
		const later = await order('production', [['HALF', '100']], { dueOn: '2027-02-01' });
		expect(await of('RAW')).toMatchObject({
			needed: '8',
			free: '8',
			missing: '0',
			orders: [{ code: first, qty: '8' }]
		});
		await setStatus(db.sql, ines, { key: randomUUID(), act: 'hold', mark: await markOf('R3'), reason: 'wet' });
		expect(await of('RAW')).toMatchObject({ free: '5', missing: '3' });
		// What another open sheet has taken is not free.
		const sale = (await getOrder(db.sql, await order('sale', [['RAW', '1']])))!;
		await saveRows(db.sql, 'ines', sale, [
			{
				id: randomUUID(),
				lineId: sale.lines[0].id,
				version: 0,
				data: { mark: await markOf('R1'), place: 'QS/A1', qty: '1' }
			}
		]);
		expect(await of('RAW')).toMatchObject({ free: '4', missing: '4' });
		// What is used already is not needed any more.
		const lines = (await getOrder(db.sql, first))!.lines;
		await bookTest(db.sql, {
			...{ kind: 'use', order: (await getOrder(db.sql, first))!.id, runs: [{ code: first }] },
			movements: [
				{
					item: 'RAW',
					lot: 'R1',
					qty: '3',
					from: 'QS/A1',
					to: '@process',
					run: first,
					role: 'use',
					orderLine: lines.find((l) => l.item === 'RAW')!.id
				}
			]
		});
		expect(await of('RAW')).toMatchObject({ needed: '5', free: '1', missing: '4' });
		await order('purchase', [['RAW', '1.5']]);
		expect(await of('RAW')).toMatchObject({ expected: '1.5', missing: '2.5', supplier: 'S1' });
		expect(await of('RAW', later)).toMatchObject({ needed: '200' });
		expect(await of('RAW', 'MO-NONE')).toBeUndefined();
	});
	it('tells what is made from what is bought, and counts what is being made as coming', async () => {
		const full = await order('production', [['FULL', '2']]);
		expect(await of('HALF', full)).toMatchObject({ made: true, needed: '3', expected: '4', missing: '0' });
		expect(await of('CAP', full)).toMatchObject({ made: false, needed: '8', missing: '8', supplier: null });
	});
	it('becomes purchase orders by one press, one for each supplier: all of them, or none', async () => {
		const who = { name: 'ines', role: 'coordinator' };
		const buy = (lines: object[], more: object = {}) =>
			buyMissing(db.sql, who, { place: 'QS/A1', dueOn: '2026-12-10', lines, ...more });
		const count = async () => Number((await db.sql`SELECT count(*) AS n FROM orders WHERE kind = 'purchase'`)[0].n);
		const before = await count();
		await expect(
			buy([
				{ item: 'RAW', qty: '2.5', supplier: 'S1' },
				{ item: 'CAP', qty: 'many', supplier: 'S2' }
			])
		).rejects.toThrow('CAP');
		await expect(buy([{ item: 'RAW', qty: '1', supplier: 'NOBODY' }])).rejects.toThrow('NOBODY');
		await expect(buy([{ item: 'RAW', qty: '1', supplier: '' }])).rejects.toThrow('Choose the supplier');
		await expect(buy([])).rejects.toThrow('Nothing is chosen');
		await expect(
			buyMissing(db.sql, { name: 'oskar', role: 'quality' }, { place: 'QS/A1', dueOn: '', lines: [] })
		).rejects.toThrow('Only a coordinator');
		expect(await count()).toBe(before);
		const made = await buy([
			{ item: 'RAW', qty: '2.5', supplier: 'S1' },
			{ item: 'CAP', qty: '8', supplier: 'S2' },
			{ item: 'HALF', qty: '1', supplier: 'S1' }
		]);
		expect(made).toHaveLength(2);
		const [one, two] = await Promise.all(made.map((code) => getOrder(db.sql, code)));
		expect([one!.partner, one!.lines.map((l) => l.item)]).toEqual(['S1', ['RAW', 'HALF']]);
		expect([two!.partner, two!.dueOn]).toEqual(['S2', '2026-12-10']);
		expect(await of('RAW')).toMatchObject({ missing: '0' });
		expect(await of('CAP')).toMatchObject({ missing: '0', supplier: 'S2' });
	});
});
