import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { removeRows, saveRows } from '../sheet/drafts.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import { forwardAnswer } from '../../../../tests/traced.ts';
import { closeShort, openAgain } from './close.ts';
import { createDocument } from './create.ts';
import { getOrder, settleOrder } from './orders.ts';
import { undoEvent } from './undo.ts';

const db = testDatabase();
const given = (reason = 'The rest is not needed') => ({ key: randomUUID(), reason });
const make = (kind: 'purchase' | 'production', item: string, qty: string) =>
	createDocument(db.sql, 'ines', {
		...{ kind, place: 'QS/A1', partner: kind === 'purchase' ? 'S1' : null },
		lines: [{ item, qty }]
	});
async function type(code: string, data: object, role: string) {
	const order = (await getOrder(db.sql, code))!;
	const lineId = order.lines.find((l) => l.role === role)!.id;
	const id = randomUUID();
	await saveRows(db.sql, 'ines', order, [{ id, lineId, version: 0, data }]);
	return { order, id };
}
const bookNow = async (code: string, reason?: string) =>
	bookSheet(db.sql, ines, code, { key: randomUUID(), stamp: (await sheetState(db.sql, code)).stamp, reason });
const closed = async (code: string) => {
	const o = (await getOrder(db.sql, code))!;
	return [o.closedAt !== null, o.closedShort];
};

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'S1', name: 'S1', kind: 'supplier' });
	const kg = { unit: 'kg', decimals: 3, tracking: 'lot' as const };
	await createItem(db.sql, 'ines', { code: 'RAW', name: 'Raw', ...kg });
	await createItem(db.sql, 'ines', { code: 'MADE', name: 'Made', ...kg, parts: [{ item: 'RAW', qty: '1' }] });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
	await createItem(db.sql, 'ines', {
		...{ code: 'UNIT', name: 'Unit', unit: 'each', tracking: 'serial', runMode: 'unit' },
		parts: [{ item: 'CELL', qty: '1' }]
	});
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			{ item: 'RAW', lot: 'R1', qty: '100', from: '@supplier', to: 'QS/A1' },
			...['C1', 'C2'].map((serial) => ({ item: 'CELL', serial, qty: '1', from: '@supplier', to: 'QS/A1' }))
		]
	});
});

describe('an order that is closed short', () => {
	it('a delivery: nothing more comes, until it is opened again; then it goes on where it was', async () => {
		const code = await make('purchase', 'RAW', '10');
		await type(code, { lot: 'R2', qty: '4' }, 'goods');
		await bookNow(code);
		await closeShort(db.sql, ines, code, given('Supplier has no more'));
		expect(await closed(code)).toEqual([true, 'Supplier has no more']);
		await expect(closeShort(db.sql, ines, code, given())).rejects.toThrow('was closed incomplete on');
		await expect(bookNow(code)).rejects.toThrow();
		await openAgain(db.sql, ines, code, given('It has come after all'));
		expect(await closed(code)).toEqual([false, null]);
		await expect(openAgain(db.sql, ines, code, given())).rejects.toThrow('was not closed');
		await type(code, { lot: 'R3', qty: '6' }, 'goods');
		await bookNow(code);
		expect(await closed(code)).toEqual([true, null]);
	});
	it('a batch: its run is closed with it, so that all that went in is in what came out, and nothing is in process', async () => {
		const code = await make('production', 'MADE', '10');
		await type(code, { lot: 'M1', qty: '6' }, 'output');
		await bookNow(code);
		const where = async () =>
			(await forwardAnswer(db.sql, { item: 'RAW', lot: 'R1', serial: null }, {}))!.where
				.map((w) => `${w.state} ${w.content}`)
				.sort();
		await closeShort(db.sql, ines, code, given());
		expect((await where()).some((w) => w.startsWith('in process'))).toBe(false);
		expect((await where()).join()).toContain('on hand 6');
		const again = type(code, { lot: 'M2', qty: '4' }, 'output').then(() => bookNow(code));
		await expect(again).rejects.toThrow(/closed|complete/);
		await openAgain(db.sql, ines, code, given('Two more are wanted'));
		expect(await closed(code)).toEqual([false, null]);
		await bookNow(code);
		expect(await closed(code)).toEqual([true, null]);
	});
	it('loses nothing that somebody typed or began: it says what stands there, and stays open', async () => {
		const code = await make('purchase', 'RAW', '10');
		const { order, id } = await type(code, { lot: 'R4', qty: '1' }, 'goods');
		await expect(closeShort(db.sql, ines, code, given())).rejects.toThrow(
			`1 row is entered in the sheet of ${code} and not booked. Book or remove it first.`
		);
		await removeRows(db.sql, order, [id]);
		await expect(closeShort(db.sql, ines, code, given(''))).rejects.toThrow('Say why');
		await expect(closeShort(db.sql, { ...ines, role: 'quality' }, code, given())).rejects.toThrow('Only a coordinator');
		const units = await make('production', 'UNIT', '2');
		const o = (await getOrder(db.sql, units))!;
		await bookTest(db.sql, {
			...{ kind: 'use', order: o.id, document: units },
			runs: [{ code: `${units}/U1`, unit: { item: 'UNIT', serial: 'U1' } }],
			movements: [
				{ item: 'CELL', serial: 'C1', qty: '1', from: 'QS/A1', to: '@process', run: `${units}/U1`, role: 'use' }
			]
		});
		await expect(closeShort(db.sql, ines, units, given())).rejects.toThrow('U1 has its parts and is not finished.');
		expect(await closed(units)).toEqual([false, null]);
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});

describe('an order whose units are all made but one that is begun', () => {
	it('stays open, says which, and is complete when that one is finished or its parts are out again', async () => {
		await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			movements: ['C8', 'C9'].map((serial) => ({ item: 'CELL', serial, qty: '1', from: '@supplier', to: 'QS/A1' }))
		});
		const code = await make('production', 'UNIT', '1');
		const { id, lines } = (await getOrder(db.sql, code))!;
		const of = (role: string) => lines.find((l) => l.role === role)!.id;
		const at = { order: id, document: code };
		const parts = (unit: string, cell: string) =>
			bookTest(db.sql, {
				...{ kind: 'use', ...at, runs: [{ code: `${code}/${unit}`, unit: { item: 'UNIT', serial: unit } }] },
				movements: [
					{
						...{ item: 'CELL', serial: cell, qty: '1', from: 'QS/A1', to: '@process' },
						...{ run: `${code}/${unit}`, role: 'use', orderLine: of('component') }
					}
				]
			});
		const open = async () => (await getOrder(db.sql, code))!.closedAt === null;
		await parts('B1', 'C8');
		const second = await parts('B2', 'C9');
		await bookTest(db.sql, {
			...{ kind: 'output', ...at },
			movements: [
				{
					...{ item: 'UNIT', serial: 'B1', qty: '1', from: '@process', to: 'QS/A1' },
					...{ run: `${code}/B1`, role: 'make', orderLine: of('output') }
				}
			]
		});
		await settleOrder(db.sql, id);
		expect(await open()).toBe(true);
		expect((await sheetState(db.sql, code)).missing.map((m) => m.message)).toContain(
			'B2 has its parts and is not finished. Finish it, or undo the use of its parts. The order stays open until then'
		);
		await undoEvent(db.sql, ines, { undo: second.id, key: randomUUID(), reason: 'not this one' });
		expect(await open()).toBe(false);
	});
});
