import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, testDatabase } from '../../../../tests/db/cluster.ts';
import { addPlace } from '../setup/places.ts';
import { createItem } from '../setup/items.ts';
import { nearNumbers } from './near.ts';

const db = testDatabase();
const near = async (typed: string, items?: string[]) =>
	(await nearNumbers(db.sql, typed, 8, items)).filter((n) => n.slips <= 2).map((n) => [n.number, n.by]);

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'SALT', name: 'Salt', unit: 'kg', decimals: 3, tracking: 'lot' });
	const came = { qty: '1', from: '@supplier', to: 'QS/A1' };
	await bookTest(db.sql, {
		kind: 'receipt',
		movements: [
			{ item: 'GEL', lot: 'QR-26-0417', supplierLot: '88-1302', ...came },
			{ item: 'SALT', lot: 'QS-26-0418', ...came },
			{ item: 'GEL', lot: 'ZZ-99-9999', ...came }
		]
	});
});

describe('numbers that come near', () => {
	it.each([
		['a letter wrong', 'QR-26-0416', [['QR-26-0417', null]]],
		['a letter left out', 'QR-26-047', [['QR-26-0417', null]]],
		['two letters swapped', 'QR-26-0471', [['QR-26-0417', null]]],
		['O for 0, I for 1', 'QR-26-O4I7', [['QR-26-0417', null]]],
		['the supplier’s number', '88-1303', [['QR-26-0417', 'supplier’s lot 88-1302']]],
		['nothing like it', 'HELLO', []]
	])('%s', async (_what, typed, want) => {
		expect((await near(typed)).slice(0, Math.max(want.length, 1))).toEqual(want);
	});
	it('of some items only, where only they are wanted', async () => {
		const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM item WHERE code = 'SALT'`;
		expect(await near('QR-26-0418', [id])).toEqual([['QS-26-0418', null]]);
	});
});
