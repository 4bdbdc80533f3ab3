import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { Problem } from '../../core/problem/problem.ts';
import { getOrder } from '../document/orders.ts';
import { undoEvent } from '../document/undo.ts';
import { changeItem, createItem, listItems } from '../setup/items.ts';
import { addPlace } from '../setup/places.ts';
import { saveRows, type RowData } from '../sheet/drafts.ts';
import { drawRows } from '../sheet/draw.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import { savePattern } from '../numbering/patterns.ts';
import { bareStock, numberStock } from './number.ts';

const db = testDatabase();
const refused = async (act: Promise<unknown>) => {
	const e = await act.catch((error: unknown) => error);
	expect(e).toBeInstanceOf(Problem);
	return (e as Problem).faults.map((f) => f.message).join(' ');
};
const carries = async (code: string, tracking: string, more: object = {}) => {
	const [i] = await listItems(db.sql, code);
	return changeItem(db.sql, 'ines', code, { name: i.name, tracking, rules: i.rules, parts: [], ...more });
};
const enter = async (code: string, rows: RowData[]) => {
	const order = (await getOrder(db.sql, code))!;
	await saveRows(
		db.sql,
		'ines',
		order,
		rows.map((data) => ({ id: randomUUID(), lineId: order.lines[0].id, version: 0, data }))
	);
};
const press = async (code: string, reason?: string) =>
	bookSheet(db.sql, ines, code, { key: randomUUID(), stamp: (await sheetState(db.sql, code)).stamp, reason });
const bare = async (item: string) => (await bareStock(db.sql, item)).map((b) => `${b.place} ${b.lot ?? '-'} ${b.qty}`);
const lies = async (number: string) =>
	(
		await db.sql<{ at: string }[]>`
			SELECT p.code AS at FROM balance b JOIN mark k ON k.id = b.mark_id AND k.number = ${number} JOIN place p ON p.id = b.place_id WHERE b.qty > 0 AND NOT b.virtual`
	).map((r) => r.at);

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/A2', 'ND', 'ND/B1']) await addPlace(db.sql, 'ines', { code, name: code });
	await createItem(db.sql, 'ines', { code: 'STRAP', name: 'Strap', unit: 'each', tracking: 'none' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'SALT', name: 'Salt', unit: 'kg', decimals: 3, tracking: 'lot' });
	const at = (to: string) => ({ from: '@supplier', to });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			{ item: 'STRAP', qty: '3', ...at('QS/A1') },
			{ item: 'STRAP', qty: '2', ...at('ND/B1') },
			{ item: 'CELL', lot: 'L-1', qty: '2', ...at('QS/A1') },
			{ item: 'CELL', lot: 'L-2', qty: '1', ...at('QS/A1') },
			{ item: 'SALT', lot: 'S-1', qty: '5', ...at('QS/A1') }
		]
	});
});

describe('an item that carries more numbers than before', () => {
	it('only ever carries more, and serials only in whole pieces', async () => {
		expect(await bare('STRAP')).toEqual([]);
		expect(await refused(numberStock(db.sql, ines, 'STRAP'))).toContain('Nothing of STRAP');
		await carries('STRAP', 'serial');
		expect(await refused(carries('STRAP', 'none'))).toContain('only added to');
		expect(await refused(carries('STRAP', 'lot'))).toContain('only added to');
		expect(await refused(carries('SALT', 'lot and serial'))).toContain('only whole pieces');
		expect((await listItems(db.sql, 'STRAP'))[0].tracking).toBe('serial');
		expect(await bare('STRAP')).toEqual(['ND/B1 - 2', 'QS/A1 - 3']);
	});
	it('its numbers are asked bin by bin, as many as there are pieces; nothing moves, and it is undone as one', async () => {
		const codes = await numberStock(db.sql, ines, 'STRAP');
		const orders = await Promise.all(codes.map(async (c) => (await getOrder(db.sql, c))!));
		expect(orders.map((o) => [o.place, o.lines[0].qty, o.lines[0].tracking])).toEqual([
			['ND/B1', '2', 'serial'],
			['QS/A1', '3', 'serial']
		]);
		// What is being numbered is not begun twice.
		expect(await refused(numberStock(db.sql, ines, 'STRAP'))).toContain('being numbered already');
		const [depot, works] = codes;
		await enter(works, [{ serial: 'ST-1', count: 2 }]);
		expect((await sheetState(db.sql, works)).missing).toMatchObject([
			{ level: 'missing', message: '1 serial not given yet' }
		]);
		await press(works);
		expect(await bare('STRAP')).toEqual(['ND/B1 - 2', 'QS/A1 - 1']);
		expect(await lies('ST-2')).toEqual(['QS/A1']);
		await enter(works, [{ serial: 'ST-3', count: 4 }]);
		const said = (await sheetState(db.sql, works)).missing.filter((m) => m.level === 'stop');
		expect(said).toMatchObject([{ message: expect.stringContaining('4 get a number, 1 lie at QS/A1 without') }]);
		await expect(press(works)).rejects.toThrow('1 lie at QS/A1');
		// One that is there already stays one.
		await enter(depot, [{ serial: 'ST-1', count: 1 }]);
		await expect(press(depot, 'x')).rejects.toThrow('ST-1');
		const [event] = (await sheetState(db.sql, works)).events;
		expect(event).toMatchObject({ kind: 'mark', movements: 3 });
		await undoEvent(db.sql, ines, { undo: event.id, key: randomUUID(), reason: 'wrong labels' });
		expect(await bare('STRAP')).toEqual(['ND/B1 - 2', 'QS/A1 - 3']);
		expect(await lies('ST-2')).toEqual([]);
	});
	it('pieces of a lot keep their lot; numbers are drawn where the item has a pattern', async () => {
		await savePattern(db.sql, 'ines', {
			code: 'CE',
			name: 'Cells',
			blocks: [
				{ kind: 'text', text: 'CE-' },
				{ kind: 'sequence', digits: 3, reset: 'never' }
			]
		});
		await carries('CELL', 'lot and serial', { serialPattern: 'CE' });
		const [code] = await numberStock(db.sql, ines, 'CELL');
		const order = (await getOrder(db.sql, code))!;
		expect(order.lines[0]).toMatchObject({ qty: '3', tracking: 'lot and serial' });
		await drawRows(db.sql, 'ines', order, { line: order.lines[0].id, count: 2, lot: 'L-1' });
		await enter(code, [{ lot: 'L-2', serial: 'CE-900', count: 1 }]);
		await press(code);
		expect(await bare('CELL')).toEqual([]);
		const marks =
			await db.sql`SELECT k.number, k.of_lot AS lot FROM mark_now k JOIN item i ON i.id = k.item_id AND i.code = 'CELL' WHERE k.kind = 'serial' ORDER BY k.number`;
		expect(marks.map((m) => m.lot)).toEqual(['L-1', 'L-1', 'L-2']);
		expect((await getOrder(db.sql, code))!.closedAt).not.toBeNull();
	});
	it('only a coordinator numbers', async () => {
		await expect(
			numberStock(db.sql, { name: 'tobi', role: 'receiving and shipping', source: 'screen' }, 'STRAP')
		).rejects.toThrow('Only a coordinator');
	});
	it('and the ledger holds', async () => {
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
