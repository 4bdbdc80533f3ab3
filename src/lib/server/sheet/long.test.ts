import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, ines, makeItems, testDatabase } from '../../../../tests/db/cluster.ts';
import { received, withPart } from '../../core/sheet/sent.ts';
import type { SheetState } from '../../core/sheet/sheet.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { setStatus } from '../ledger/changes.ts';
import { removeRows, saveRows, type RowData } from './drafts.ts';
import { sheetPart } from './part.ts';
import { undoScan } from './scan.ts';
import { sheetSent } from './sent.ts';
import { bookSheet, sheetState } from './state.ts';
import { takeScan } from '../../../../tests/db/sheets.ts';

const db = testDatabase();
const orderOf = async (code: string) => (await getOrder(db.sql, code))!;
const make = (kind: 'purchase' | 'sale', item: string, qty: number) =>
	createDocument(db.sql, 'ines', {
		...{ kind, place: 'QS', partner: kind === 'sale' ? 'C1' : 'S1' },
		lines: [{ item, qty: String(qty) }]
	});
async function type(code: string, data: RowData, id: string = randomUUID(), version = 0) {
	const order = await orderOf(code);
	return saveRows(db.sql, 'ines', order, [{ id, lineId: order.lines[0].id, version, data }]);
}
const scan = async (code: string, text: string, id: string = randomUUID()) =>
	takeScan(db.sql, 'ines', await orderOf(code), { id, text, lineId: null, lot: null });
const rowsOf = async (code: string) =>
	(
		await db.sql<{ data: RowData }[]>`
			SELECT d.data FROM draft_row d JOIN orders o ON o.id = d.order_id WHERE o.code = ${code} ORDER BY d.created_at, d.id`
	).map((r) => r.data);
/** The sheet as its page has it after what was told of it. */
const wired = <T>(x: T): T => JSON.parse(JSON.stringify(x)) as T;

beforeAll(async () => {
	await makeItems(db.sql, [
		{ code: 'UNIT', name: 'Unit', unit: 'each', tracking: 'serial' },
		{ code: 'PAIR', name: 'Pair', unit: 'each', tracking: 'lot and serial' }
	]);
	for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'Customer', kind: 'customer' });
	await addPartner(db.sql, 'ines', { code: 'S1', name: 'Supplier', kind: 'supplier' });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: Array.from({ length: 700 }, (_, n) => ({
			...{ item: 'UNIT', serial: `U-${String(n + 1).padStart(3, '0')}`, qty: 1, from: '@supplier', to: 'QS/A1' }
		}))
	});
	const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'U-007'`;
	await setStatus(db.sql, ines, { key: 'hold', mark: id, act: 'hold', reason: 'scratched' });
});

describe('a scan into a long sheet', () => {
	it.each([
		['a delivery', 'UNIT', ['N-1', 'N-2', 'N-3', 'N-2', 'T-5', 'T-5', 'T-41', 'U-003', 'N-9', 'N-10', '?', 'N-4']],
		['one with lots', 'PAIR', ['(10)L-1(21)P-1', '(10)L-1(21)P-2', '(10)L-2(21)P-3', 'P-1', '(10)L-1']]
	])('does and says the same as into a short one: %s', async (_name, item, texts) => {
		const said = [];
		for (const qty of [400, 6000]) {
			const code = await make('purchase', item, qty);
			await type(code, item === 'UNIT' ? { serial: 'T-1', count: 40 } : { lot: 'L-9', serial: 'T-1', count: 40 });
			const answers = [];
			for (const text of texts) {
				const { taken, said, hold } = await scan(code, text);
				answers.push([text, taken, said.replace(/of [\d,]+( pcs)?$/, 'of all').replaceAll(code, 'CODE'), hold?.lot]);
			}
			expect((await sheetState(db.sql, code)).long).toBe(qty === 6000);
			said.push({ answers, rows: await rowsOf(code) });
		}
		expect(said[1]).toEqual(said[0]);
		expect(said[0].answers.map((a) => a[1])).toContain(false);
	});
	it('takes from stock as from a short one, and refuses what is held, taken or unknown', async () => {
		const said = [];
		for (const qty of [400, 600]) {
			const code = await make('sale', 'UNIT', qty);
			const answers = [];
			for (const text of ['U-001', 'U-002', 'U-001', 'U-007', 'U-999', 'U-700']) {
				const { taken, said } = await scan(code, text);
				answers.push([taken, said.replace(/of [\d,]+( pcs)?$/, 'of all').replaceAll(code, 'CODE')]);
			}
			const rows = await rowsOf(code);
			said.push({ answers, rows });
			// What is picked for one is not offered to the next.
			const order = await orderOf(code);
			const ids = await db.sql<{ id: string }[]>`SELECT id FROM draft_row WHERE order_id = ${order.id}`;
			await removeRows(
				db.sql,
				order,
				ids.map((r) => r.id)
			);
		}
		expect(said[1]).toEqual(said[0]);
		expect(said[0].answers.map((a) => a[0])).toEqual([true, true, false, false, false, true]);
	});
	it('is taken back like any other', async () => {
		const code = await make('purchase', 'UNIT', 6000);
		await scan(code, 'B-1');
		const id = randomUUID();
		await scan(code, 'B-2', id);
		expect(await rowsOf(code)).toMatchObject([{ serial: 'B-1', count: 2 }]);
		await undoScan(db.sql, 'ines', await orderOf(code), id);
		expect(await rowsOf(code)).toMatchObject([{ serial: 'B-1', count: 1 }]);
	});
});

describe('a long sheet', () => {
	it('is answered with what a change was about, and comes to the same when all of it is told', async () => {
		const code = await make('purchase', 'UNIT', 6000);
		for (let n = 0; n < 3; n++) await type(code, { serial: `G${n}-001`, count: 1000 });
		let page: SheetState = received(wired(sheetSent(await sheetState(db.sql, code), null)), null);
		const told = sheetSent(await sheetState(db.sql, code), null);
		page = received(wired(told), page);
		const id = randomUUID();
		const [changed] = await type(code, { serial: 'U-001', count: 2 }, id);
		page = withPart(page, await sheetPart(db.sql, await orderOf(code), [changed]));
		// By itself only its form is looked at; that the number is there already the whole says.
		expect(page.lines[0].rows[3]).toMatchObject({ id, serial: 'U-001', last: 'U-002', qty: '2', findings: [] });
		expect(page.lines[0].entered).toBe('3002');
		const whole = await sheetState(db.sql, code);
		expect(whole.lines[0].rows[3].findings).toMatchObject([{ level: 'stop' }]);
		const since = wired(sheetSent(whole, told.is));
		expect(since.since).toBe(told.is);
		expect(since.lines[0].rows.set).toMatchObject([{ id }]);
		expect(received(since, received(wired(told), null))).toEqual(wired(whole));
		const [gone] = await removeRows(db.sql, await orderOf(code), [id]);
		page = withPart(page, await sheetPart(db.sql, await orderOf(code), [], [gone]));
		expect(page.lines[0].entered).toBe('3000');
		// What nobody remembers any more is told whole.
		expect(sheetSent(whole, randomUUID()).since).toBeNull();
	});
	it('says what is wrong with the form of a row at once', async () => {
		const code = await make('purchase', 'UNIT', 6000);
		const ids = await type(code, { serial: 'no digits', supplierSerial: 'x', place: 'NONE' });
		const { rows } = await sheetPart(db.sql, await orderOf(code), ids);
		expect(rows[0].row.findings.map((f) => f.level)).toContain('stop');
	});
	it('opens unchecked and says so, and nothing is booked of what was not checked', async () => {
		const code = await make('purchase', 'UNIT', 6000);
		await type(code, { serial: 'U-001' });
		const ahead = await sheetState(db.sql, code, 'both', { ahead: true });
		expect(ahead).toMatchObject({ long: true, checked: false, ready: false, stamp: '' });
		const press = { key: randomUUID(), stamp: ahead.stamp, mode: 'both' as const };
		await expect(bookSheet(db.sql, ines, code, press)).rejects.toThrow('The sheet changed while you looked at it');
		expect(await sheetState(db.sql, code)).toMatchObject({ checked: true, missing: [{ level: 'stop' }, {}] });
		// A short one is checked as it opens.
		const short = await make('purchase', 'UNIT', 5);
		expect(await sheetState(db.sql, short, 'both', { ahead: true })).toMatchObject({ long: false, checked: true });
	});
});
