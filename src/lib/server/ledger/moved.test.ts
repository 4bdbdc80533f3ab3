import { beforeAll, expect, it } from 'vitest';
import { bookTest, testDatabase } from '../../../../tests/db/cluster.ts';
import { createItem } from '../setup/items.ts';
import { movedWords } from './moved.ts';

const db = testDatabase();
const said = async (event: Parameters<typeof bookTest>[1]) =>
	movedWords(db.sql, (await bookTest(db.sql, { partner: 'P1', ...event })).id);

beforeAll(async () => {
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CAP', name: 'Cap', unit: 'each', tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
});

it('what was booked is counted by lots, with their quantity, and by serials', async () => {
	expect(
		await said({
			kind: 'receipt',
			movements: [
				{ item: 'GEL', lot: 'G-1', qty: '2.5', from: '@supplier', to: 'QS/A1' },
				{ item: 'CAP', lot: 'C-1', qty: '30', from: '@supplier', to: 'QS/A1' },
				{ item: 'CAP', lot: 'C-1', qty: '10', from: '@supplier', to: 'QS/A2' },
				{ item: 'CELL', serial: 'S-1', qty: '1', from: '@supplier', to: 'QS/A1' }
			]
		})
	).toBe('40 pieces and 2.5 kg in 2 lots, 1 serial');
});

it('what comes back and is scrapped in the same event counts once; a lot out of two bins counts whole', async () => {
	expect(
		await said({
			kind: 'shipment',
			movements: [
				{ item: 'CAP', lot: 'C-1', qty: '5', from: 'QS/A1', to: '@customer' },
				{ item: 'CAP', lot: 'C-1', qty: '2', from: 'QS/A2', to: '@customer' }
			]
		})
	).toBe('7 pieces in 1 lot');
	expect(
		await said({
			kind: 'return',
			movements: [
				{ item: 'CAP', lot: 'C-1', qty: '5', from: '@customer', to: 'QS/QC' },
				{ item: 'CAP', lot: 'C-1', qty: '3', from: 'QS/QC', to: '@scrap' }
			]
		})
	).toBe('5 pieces in 1 lot');
});
