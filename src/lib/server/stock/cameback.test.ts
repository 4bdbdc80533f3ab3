import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { PREFERENCES } from '../../core/allocation/allocate.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { undoEvent } from '../document/undo.ts';
import { saveFirm } from '../setup/firm.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace, savePartner } from '../setup/places.ts';
import { saveRows } from '../sheet/drafts.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import { allocationFor } from './allocations.ts';

const db = testDatabase();
const of = async (serial: string, from: string, to: string, kind: string, at: string, more: object = {}) =>
	bookTest(db.sql, {
		...{ kind: kind as 'move', at: `2026-03-0${at}T08:00:00Z`, ...more },
		movements: [{ item: 'CELL', serial, qty: '1', from, to }]
	});
const picks = async (qty: string, customer: string | null = 'C1') => {
	const found = await allocationFor(db.sql, { item: 'CELL', qty, purpose: 'shipment', customer });
	return {
		picks: found.picks.map((p) => [p.serial, p.why]),
		out: found.leftOut.map((l) => [l.serial, l.reason, l.message])
	};
};

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	for (const code of ['C1', 'C2']) await addPartner(db.sql, 'ines', { code, name: code, kind: 'customer' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
	for (const n of ['C-1', 'C-2', 'C-3'])
		await of(n, '@supplier', 'QS/A1', 'receipt', n === 'C-1' ? '1' : '2', { partner: 'S1' });
	await of('C-1', 'QS/A1', '@customer', 'shipment', '3', { partner: 'C1' });
	await of('C-1', '@customer', 'QS/A1', 'return', '4', { partner: 'C1', reason: 'Faulty' });
});

describe('a serial that came back from a customer', () => {
	it.each(PREFERENCES)('is offered after all others, whatever is preferred: %s', async (preference) => {
		await saveFirm(db.sql, 'ines', { preference });
		const { picks: all } = await picks('3');
		expect(
			all
				.map(([serial]) => serial)
				.slice(0, 2)
				.sort()
		).toEqual(['C-2', 'C-3']);
		expect(all[2]).toEqual(['C-1', 'came back']);
	});
	it('says so on the sheet, suggested or chosen', async () => {
		const code = await createDocument(db.sql, 'ines', {
			kind: 'sale',
			partner: 'C1',
			place: 'QS',
			lines: [{ item: 'CELL', qty: '3' }]
		});
		const { lines } = await sheetState(db.sql, code);
		expect(lines[0].cells[0].picks.map((p) => [p.number, !!p.cameBack])).toContainEqual(['C-1', true]);
	});
	it('goes to nobody who gets new ones only, but with a reason; the firm’s default counts where the customer says nothing', async () => {
		await savePartner(db.sql, 'ines', 'C2', { name: 'C2', kind: 'customer', newOnly: true });
		expect((await picks('3', 'C2')).out).toEqual([['C-1', 'came back', 'came back from a customer']]);
		expect((await picks('3', 'C1')).out).toEqual([]);
		await saveFirm(db.sql, 'ines', { newOnly: true });
		expect((await picks('3', 'C1')).out).toHaveLength(1);
		await savePartner(db.sql, 'ines', 'C1', { name: 'C1', kind: 'customer', newOnly: false });
		expect((await picks('3', 'C1')).out).toEqual([]);

		const code = await createDocument(db.sql, 'ines', {
			kind: 'sale',
			partner: 'C2',
			place: 'QS',
			lines: [{ item: 'CELL', qty: '1' }]
		});
		const order = (await getOrder(db.sql, code))!;
		const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'C-1'`;
		await saveRows(db.sql, 'ines', order, [
			{ id: randomUUID(), lineId: order.lines[0].id, version: 0, data: { mark: id, place: 'QS/A1', qty: '1' } }
		]);
		const { stamp, missing } = await sheetState(db.sql, code);
		const says =
			'Serial C-1 came back from a customer, and this one gets new ones only. Take another, or say why it goes.';
		expect(missing.map((m) => [m.code, m.level, m.message])).toEqual([['came back', 'reason', says]]);
		const press = (reason?: string) => bookSheet(db.sql, ines, code, { key: randomUUID(), stamp, reason });
		await expect(press()).rejects.toThrow('came back from a customer');
		await expect(of('C-1', 'QS/A1', '@customer', 'shipment', '5', { partner: 'C2' })).rejects.toThrow('came back');
		const booked = await press('they know, and take it');
		await undoEvent(db.sql, ines, { undo: booked.id, key: randomUUID(), reason: 'not after all' });
	});
	it('is as new again when it was received or made anew, and none at all where the return was undone', async () => {
		await of('C-2', 'QS/A1', '@customer', 'shipment', '6', { partner: 'C1' });
		const back = await of('C-2', '@customer', 'QS/A1', 'return', '7', { partner: 'C1', reason: 'Faulty' });
		expect((await picks('3')).picks.filter(([, why]) => why === 'came back')).toHaveLength(2);
		await undoEvent(db.sql, ines, { undo: back.id, key: randomUUID(), reason: 'another one' });
		expect((await picks('3')).picks).toEqual([
			['C-3', expect.any(String)],
			['C-1', 'came back']
		]);
		await of('C-1', 'QS/A1', '@supplier', 'supplier return', '8', { partner: 'S1', reason: 'Faulty' });
		await of('C-1', '@supplier', 'QS/A1', 'receipt', '9', { partner: 'S1' });
		expect((await picks('3')).picks.map(([, why]) => why)).not.toContain('came back');
	});
	it('and the ledger holds', async () => expect(await findingsOf(db.sql)).toEqual([]));
});
