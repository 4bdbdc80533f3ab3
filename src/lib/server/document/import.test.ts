import { beforeAll, describe, expect, it } from 'vitest';
import { ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { importOrders } from './import.ts';
import { getOrder } from './orders.ts';

const db = testDatabase();
const HEAD = 'order,kind,partner,place,to,due,item,qty,for';
const read = (rows: string[], dryRun = false) => importOrders(db.sql, ines, [HEAD, ...rows].join('\n'), dryRun);

beforeAll(async () => {
	for (const code of ['QS', 'NG', 'NG/B1']) await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'S1', name: 'Supplier', kind: 'supplier' });
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'Customer', kind: 'customer' });
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
});

describe('orders from a file', () => {
	it('say where a transfer goes, and for whom a line is bought', async () => {
		const made = await read([
			'TR-1,transfer,,QS,NG/B1,2027-03-01,GEL,4,',
			'PO-1,purchase,S1,QS,,2027-03-01,GEL,4,C1',
			'PO-1,purchase,S1,QS,,2027-03-01,GEL,2,'
		]);
		expect(made).toMatchObject({ made: true, faults: [], orders: [{ code: 'TR-1' }, { code: 'PO-1', lines: 2 }] });
		expect(await getOrder(db.sql, 'TR-1')).toMatchObject({ kind: 'transfer', place: 'QS', to: 'NG/B1' });
		expect((await getOrder(db.sql, 'PO-1'))!.lines.map((l) => l.forPartner)).toEqual(['Customer', null]);
	});
	it('name the row of each fault, and make nothing', async () => {
		const { faults, made } = await read(
			[
				'TR-2,transfer,,QS,NG/B1,,GEL,4,',
				'TR-2,transfer,,QS,NG,,GEL,1,',
				'TR-3,transfer,,QS,,,GEL,1,',
				'SO-3,sale,C1,QS,,,GEL,1,C1'
			],
			true
		);
		expect(made).toBe(false);
		expect(faults.map((f) => [f.at, f.message])).toEqual([
			['row 3', 'Order TR-2 has another to here than in row 2. Make them the same.'],
			['row 4', 'Choose where it goes.'],
			['row 5', 'Only what is bought is bought for a customer. Leave it out.']
		]);
		await expect(read(['SO-3,sale,C1,QS,NG,,GEL,1,'])).rejects.toThrow('Only a transfer goes to a place of ours');
	});
});
