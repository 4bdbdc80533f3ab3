import { beforeAll, expect, it } from 'vitest';
import { bookTest, testDatabase } from '../../../../tests/db/cluster.ts';
import { createItem } from '../setup/items.ts';
import { movedWords } from './moved.ts';

const db = testDatabase();
beforeAll(async () => {
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CAP', name: 'Cap', unit: 'each', tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
});

const [supplier, customer, bin, other, quarantine] = ['@supplier', '@customer', 'QS/A1', 'QS/A2', 'QS/QC'];
/** One after the other: each takes what the one before it brought. */
it.each<[string, Parameters<typeof bookTest>[1], string]>([
	[
		'by lots with their quantity, and by serials',
		{
			kind: 'receipt',
			movements: [
				{ item: 'GEL', lot: 'G-1', qty: '2.5', from: supplier, to: bin },
				{ item: 'CAP', lot: 'C-1', qty: '30', from: supplier, to: bin },
				{ item: 'CAP', lot: 'C-1', qty: '10', from: supplier, to: other },
				{ item: 'CELL', serial: 'S-1', qty: '1', from: supplier, to: bin }
			]
		},
		'40 pieces and 2.5 kg in 2 lots, 1 serial'
	],
	[
		'a lot out of two bins whole',
		{
			kind: 'shipment',
			movements: [
				{ item: 'CAP', lot: 'C-1', qty: '5', from: bin, to: customer },
				{ item: 'CAP', lot: 'C-1', qty: '2', from: other, to: customer }
			]
		},
		'7 pieces in 1 lot'
	],
	[
		'what comes back and is scrapped in the same event once',
		{
			kind: 'return',
			movements: [
				{ item: 'CAP', lot: 'C-1', qty: '5', from: customer, to: quarantine },
				{ item: 'CAP', lot: 'C-1', qty: '3', from: quarantine, to: '@scrap' }
			]
		},
		'5 pieces in 1 lot'
	]
])('what was booked is counted: %s', async (_what, event, words) => {
	const { id } = await bookTest(db.sql, { partner: 'P1', ...event });
	expect(await movedWords(db.sql, id)).toBe(words);
});
