import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { findingsOf, bookTest, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { startFrom, type Start, type Tracking } from '../../core/marking/rule.ts';
import { changeItem, createItem, listItems, ruleMeans } from '../setup/items.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { backAnswer } from '../../../../tests/traced.ts';
import { createDocument } from '../document/create.ts';
import { saveRows, type RowData } from './drafts.ts';
import { getOrder } from '../document/orders.ts';
import { bookSheet, sheetState } from './state.ts';

const db = testDatabase();
async function order(kind: 'purchase' | 'sale', item: string, qty: string, place = 'QS/A1') {
	const code = await createDocument(db.sql, 'ines', {
		kind,
		partner: kind === 'sale' ? 'C1' : 'S1',
		place,
		lines: [{ item, qty }]
	});
	return (await getOrder(db.sql, code))!;
}
const type = (o: { id: string; code: string; lines: { id: string }[] }, data: RowData) =>
	saveRows(db.sql, 'ines', o, [{ id: randomUUID(), lineId: o.lines[0].id, version: 0, data }]);
const bookNow = async (code: string, reason?: string) =>
	bookSheet(db.sql, ines, code, { key: randomUUID(), stamp: (await sheetState(db.sql, code)).stamp, reason });
async function item(code: string, tracking: Tracking, start: Start) {
	await createItem(db.sql, 'ines', { code, name: code, unit: 'each', decimals: 0, tracking });
	await changeItem(db.sql, 'ines', code, { name: code, rules: startFrom(start, tracking), parts: [] });
}

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'S1', name: 'Supplier', kind: 'supplier' });
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'Customer', kind: 'customer' });
	await item('LATE', 'serial', 'at shipment only');
	await item('MIXED', 'lot and serial', 'lot everywhere, serial at shipment');
});

describe('a serial that is given only at shipment', () => {
	it('comes in without, and asks for nothing then', async () => {
		const o = await order('purchase', 'LATE', '10');
		expect(o.lines[0]).toMatchObject({ tracking: 'none', carries: 'serial' });
		await type(o, { qty: '10' });
		await bookNow(o.code);
		const [{ qty }] = await db.sql<
			{ qty: string }[]
		>`SELECT qty::text FROM balance b JOIN mark k ON k.id = b.mark_id AND k.kind = 'unmarked' WHERE NOT b.virtual AND b.qty > 0`;
		expect(Number(qty)).toBe(10);
	});
	it('is asked for at shipment from the first moment, and given there', async () => {
		const o = await order('sale', 'LATE', '3');
		let sheet = await sheetState(db.sql, o.code);
		expect(sheet.missing[0]).toMatchObject({ level: 'stop', message: '3 serials missing: they are given at shipment' });
		await type(o, { serial: 'X-001', count: 4 });
		sheet = await sheetState(db.sql, o.code);
		expect(sheet.missing[0].message).toContain('1 more serials than pieces that go');
		const [row] = sheet.lines[0].rows;
		await saveRows(db.sql, 'ines', o, [
			{ id: row.id, lineId: o.lines[0].id, version: row.version, data: { serial: 'X-001', count: 3 } }
		]);
		expect((await sheetState(db.sql, o.code)).missing).toEqual([]);
		const { id } = await bookNow(o.code);
		const moves = await db.sql<
			{ number: string | null; role: string | null }[]
		>`SELECT k.number, m.role FROM movement m JOIN mark k ON k.id = m.mark_id WHERE m.event_id = ${id} ORDER BY m.id`;
		expect(moves.map((m) => `${m.number ?? 'unmarked'} ${m.role ?? 'goes'}`)).toEqual([
			'unmarked use',
			'X-001 make',
			'X-002 make',
			'X-003 make',
			'X-001 goes',
			'X-002 goes',
			'X-003 goes'
		]);
	});
	it('the trace shows where the proof begins', async () => {
		const back = (await backAnswer(db.sql, { item: 'LATE', serial: 'X-002' }, {}))!;
		expect(back.gaps).toMatchObject([{ kind: 'unmarked used', item: 'LATE' }]);
		expect(back.suppliers).toEqual([]);
	});
	it('from a lot it keeps its lot: the trace goes on through it', async () => {
		const o = await order('purchase', 'MIXED', '5');
		expect(o.lines[0].tracking).toBe('lot');
		await type(o, { lot: 'M-1', qty: '5' });
		await bookNow(o.code);
		const out = await order('sale', 'MIXED', '2');
		await type(out, { serial: 'Y-1', count: 2 });
		await bookNow(out.code);
		const back = (await backAnswer(db.sql, { item: 'MIXED', serial: 'Y-2' }, {}))!;
		expect(back.marks).toEqual([{ item: 'MIXED', lot: 'M-1', serial: null }]);
		expect(back.suppliers).toMatchObject([{ partner: 'S1', document: o.code }]);
		// Which lot it came from was suggested, and nobody looked.
		expect(back.gaps).toMatchObject([{ kind: 'not looked at', lot: 'M-1' }]);
	});
	it('giving them is no production: its steps of the rule ask nothing of it', async () => {
		await createItem(db.sql, 'ines', {
			code: 'TORN',
			name: 'Torn',
			unit: 'each',
			decimals: 0,
			tracking: 'lot and serial'
		});
		const [torn] = await listItems(db.sql, 'TORN');
		await changeItem(db.sql, 'ines', 'TORN', {
			name: 'Torn',
			parts: [],
			rules: torn.rules.map((r) => (r.step === 'receipt' ? { ...r, serial: 'asked' } : r))
		});
		const o = await order('purchase', 'TORN', '2');
		await type(o, { lot: 'TL', qty: '2' });
		await bookNow(o.code, 'labels torn off');
		const out = await order('sale', 'TORN', '2');
		await type(out, { serial: 'T-1', count: 2 });
		await bookNow(out.code);
		// Real production still asks for it.
		const more = await order('purchase', 'TORN', '1');
		await type(more, { lot: 'TL2', qty: '1' });
		await bookNow(more.code, 'torn too');
		await expect(
			bookTest(db.sql, {
				kind: 'use',
				runs: [{ code: 'R-TORN' }],
				movements: [{ item: 'TORN', lot: 'TL2', qty: 1, from: 'QS/A1', to: '@process', run: 'R-TORN', role: 'use' }]
			})
		).rejects.toThrow('needs a serial at production use');
	});
	it('and the ledger holds', async () => expect(await findingsOf(db.sql)).toEqual([]));
});

describe('a number that is asked, not required', () => {
	it('may be left out with a reason', async () => {
		await createItem(db.sql, 'ines', { code: 'ASKED', name: 'Asked', unit: 'each', decimals: 0, tracking: 'serial' });
		const rules = (await listItems(db.sql, 'ASKED'))[0].rules.map((r) =>
			r.step === 'receipt' ? { ...r, serial: 'asked' as const } : r
		);
		await changeItem(db.sql, 'ines', 'ASKED', { name: 'Asked', rules, parts: [] });
		const o = await order('purchase', 'ASKED', '4');
		await type(o, { serial: 'A-1', count: 3 });
		await type(o, { qty: '1' });
		expect((await sheetState(db.sql, o.code)).missing).toMatchObject([
			{ level: 'reason', message: 'ASKED needs a serial at receipt. Type it, or say why there is none.' }
		]);
		await expect(bookNow(o.code)).rejects.toThrow('ASKED needs a serial');
		await bookNow(o.code, 'label torn off');
	});
});

describe('a change of rule', () => {
	it('cannot take the serial away where each finished piece has a run of its own', async () => {
		await createItem(db.sql, 'ines', {
			code: 'OWN',
			name: 'Own',
			unit: 'each',
			decimals: 0,
			tracking: 'serial',
			runMode: 'unit'
		});
		await expect(
			changeItem(db.sql, 'ines', 'OWN', { name: 'Own', rules: startFrom('at shipment only', 'serial'), parts: [] })
		).rejects.toThrow('required at production output');
	});
	it('says what it means for stock on hand and open documents before it is saved', async () => {
		await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			movements: [{ item: 'LATE', qty: 7, from: '@supplier', to: 'QS/A1' }]
		});
		const o = await order('sale', 'LATE', '1');
		const means = await ruleMeans(db.sql, 'LATE', { rules: startFrom('everywhere', 'serial') });
		expect(means).toContain(
			'A serial is required at production use, job use, repack, service part, move, transfer, supplier return, adjustment in, adjustment out and count. 14 pieces without any number on hand cannot be booked there until they have one.'
		);
		const looser = startFrom('at shipment only', 'serial').map((r) => ({ ...r, serial: 'not asked' as const }));
		expect(await ruleMeans(db.sql, 'LATE', { rules: looser })).toContain(
			`A serial is no longer asked at customer return and shipment: what is booked without one is unmarked stock, and a trace says so as a gap. ${o.code} is open and keeps to it from now on.`
		);
		expect(await ruleMeans(db.sql, 'LATE', { rules: startFrom('at shipment only', 'serial') })).toEqual([]);
	});
});
