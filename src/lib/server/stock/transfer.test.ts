import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { findingsOf, bookTest, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { statesIn } from '../../core/sheet/entered.ts';
import { press as pressed, takeScan } from '../../../../tests/db/sheets.ts';
import type { Mode } from '../../core/sheet/sheet.ts';
import { closeShort } from '../document/close.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { undoEvent } from '../document/undo.ts';
import { setStatus } from '../ledger/changes.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace, saveSite } from '../setup/places.ts';
import { saveRows } from '../sheet/drafts.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import { forwardAnswer } from '../../../../tests/traced.ts';
import { allocationFor } from './allocations.ts';
import { makePromise } from '../document/promises.ts';
import { endTransit } from './transit.ts';

const db = testDatabase();
type Line = { item: string; qty: string };
/** A transfer from QS to NG. */
const transfer = (lines: Line[], more: object = {}) =>
	createDocument(db.sql, 'ines', { kind: 'transfer', place: 'QS', to: 'NG/B1', lines, ...more });
const order = async (code: string) => (await getOrder(db.sql, code))!;
const sheet = (code: string, mode: Mode = 'both') => sheetState(db.sql, code, mode);
const scan = async (code: string, text: string, mode: Mode) =>
	takeScan(db.sql, 'ines', await order(code), { id: randomUUID(), text }, mode);
const press = (code: string, mode: Mode, reason?: string) => pressed(db.sql, code, mode, reason);
const picks = async (code: string, mode: Mode, line = 0) =>
	(await sheet(code, mode)).lines[line].cells.flatMap((c) => c.picks.map((p) => [p.number, p.place, p.qty, !!p.id]));
/** Where a number stands, as "place qty". */
const where = async (number: string) =>
	(
		await db.sql<{ at: string }[]>`
			SELECT p.code || ' ' || trim_scale(b.qty) AS at FROM balance b JOIN mark k ON k.id = b.mark_id AND k.number = ${number} JOIN place p ON p.id = b.place_id
			WHERE b.qty > 0 AND NOT b.virtual ORDER BY p.code`
	).map((r) => r.at);
const choose = async (code: string, line: number, number: string, place: string, qty: string) => {
	const o = await order(code);
	const [mark] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`;
	await saveRows(db.sql, 'ines', o, [
		{ id: randomUUID(), lineId: o.lines[line].id, version: 0, data: { mark: mark.id, place, qty } }
	]);
};
const messages = async (code: string, mode: Mode) => (await sheet(code, mode)).missing.map((m) => m.message);

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/A2', 'NG', 'NG/B1', 'NG/B2', 'AN', 'AN/1'])
		await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'Customer', kind: 'customer' });
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
	await createItem(db.sql, 'ines', { code: 'NUT', name: 'Nut', unit: 'each', tracking: 'none' });
	const from = (to: string, movements: object[]) => movements.map((m) => ({ qty: '1', from: '@supplier', to, ...m }));
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			...from('QS/A1', [
				{ item: 'GEL', lot: 'G-1', qty: '30', expiresOn: '2031-01-31' },
				{ item: 'GEL', lot: 'G-2', qty: '30', expiresOn: '2032-01-31' },
				{ item: 'NUT', qty: '100' },
				...Array.from({ length: 20 }, (_, i) => ({ item: 'CELL', serial: `C-${i + 1}` }))
			]),
			...from('NG/B2', [{ item: 'GEL', lot: 'G-NG', qty: '9', expiresOn: '2030-01-31' }])
		] as never
	});
});

describe('a transfer', () => {
	it('leaves as suggested, is in transit, and arrives; nothing that is there already is suggested', async () => {
		const code = await transfer([
			{ item: 'GEL', qty: '12' },
			{ item: 'CELL', qty: '2' },
			{ item: 'NUT', qty: '40' }
		]);
		expect(code).toMatch(/^TR-/);
		expect(await picks(code, 'both')).toEqual([['G-1', 'QS/A1', '12', false]]);
		await press(code, 'use');
		expect(await where('G-1')).toEqual(['IN-TRANSIT 12', 'QS/A1 18']);
		// It waits for its arrival, and that is what its page shows next.
		expect((await order(code)).closedAt).toBeNull();
		expect((await sheet(code)).transfer).toEqual({ to: 'NG/B1', side: 'arrives', inTransit: 4 });
		expect(await picks(code, 'both', 1)).toEqual([
			['C-1', 'IN-TRANSIT', '1', false],
			['C-2', 'IN-TRANSIT', '1', false]
		]);
		const trace = (await forwardAnswer(db.sql, { item: 'CELL', serial: 'C-1', lot: null }, {}))!;
		expect(trace.where).toMatchObject([{ at: 'IN-TRANSIT' }]);
		await press(code, 'output');
		expect(await where('G-1')).toEqual(['NG/B1 12', 'QS/A1 18']);
		expect((await order(code)).closedAt).not.toBeNull();
		expect((await order(code)).lines.map((l) => l.done)).toEqual(['12', '2', '40']);
	});

	it('names what did not arrive, keeps it in transit, and takes it in later', async () => {
		const code = await transfer([{ item: 'CELL', qty: '3' }]);
		await press(code, 'use');
		expect(await scan(code, 'C-3', 'output')).toMatchObject({
			taken: true,
			said: expect.stringContaining('C-3 from IN-TRANSIT')
		});
		await scan(code, 'C-5', 'output');
		// The third is still expected: nobody has seen it.
		const { lines } = await sheet(code, 'output');
		expect(statesIn(lines[0].cells)).toEqual({ suggested: '1', chosen: '0', picked: '2' });
		await press(code, 'output');
		expect(await where('C-4')).toEqual(['IN-TRANSIT 1']);
		expect((await order(code)).closedAt).toBeNull();
		await expect(closeShort(db.sql, ines, code, { key: randomUUID(), reason: 'done with it' })).rejects.toThrow(
			'1 number is in transit. Receive what arrived, and say what became of the rest, first.'
		);
		await press(code, 'output');
		expect(await where('C-4')).toEqual(['NG/B1 1']);
		expect((await order(code)).closedAt).not.toBeNull();
	});

	it('refuses a number that was not sent, more than was sent, and says what to do', async () => {
		const code = await transfer([{ item: 'GEL', qty: '5' }]);
		await press(code, 'use');
		expect(await scan(code, 'G-2', 'output')).toMatchObject({
			taken: false,
			said: `G-2 was not sent with ${code}: the ledger has it at QS/A1. If it is here, send it with ${code} first, under Leaving; then receive it.`
		});
		expect(await scan(code, 'G-NG', 'output')).toMatchObject({
			taken: false,
			said: 'G-NG has arrived: it is at NG/B2.'
		});
		expect(await scan(code, 'NEVER', 'output')).toMatchObject({
			taken: false,
			said: expect.stringContaining('NEVER stands nowhere')
		});
		await choose(code, 0, 'G-1', 'IN-TRANSIT', '6');
		expect(await messages(code, 'output')).toEqual(
			expect.arrayContaining([
				expect.stringContaining(`Lot G-1: 5 kg of it are in transit for ${code}, and no more can arrive.`)
			])
		);
		await expect(press(code, 'output')).rejects.toThrow('Lot G-1');
		expect(await where('G-1')).toContain('IN-TRANSIT 5');
		// What another transfer has in transit of the same lot is not this one's.
		const other = await transfer([{ item: 'GEL', qty: '2' }]);
		await press(other, 'use');
		await expect(press(code, 'output')).rejects.toThrow('no more can arrive');
		await press(other, 'output');
		await db.sql`DELETE FROM draft_row WHERE order_id = ${(await order(code)).id}`;
		await press(code, 'output');
		expect(await where('G-1')).toEqual(['NG/B1 19', 'QS/A1 11']);
	});

	it('what will not arrive is back where it was and can be sent again, or is lost and ends the transfer', async () => {
		const code = await transfer([{ item: 'CELL', qty: '2' }]);
		await press(code, 'use');
		const end = (became: string, role = 'coordinator') =>
			endTransit(db.sql, { ...ines, role } as typeof ines, code, { key: randomUUID(), became, reason: 'fell off' });
		await expect(end('lost', 'clerk')).rejects.toThrow('Only a coordinator');
		await end('back');
		expect(await where('C-6')).toEqual(['QS/A1 1']);
		expect((await order(code)).lines[0].done).toBe('0');
		await press(code, 'use');
		await scan(code, 'C-7', 'output');
		await press(code, 'output');
		await end('lost');
		expect(await where('C-6')).toEqual([]);
		expect((await order(code)).closedAt).not.toBeNull();
		await expect(end('lost')).rejects.toThrow('is complete');
	});

	it('an undone departure takes all of it back; not once something has arrived', async () => {
		const code = await transfer([{ item: 'CELL', qty: '2' }]);
		const sent = await press(code, 'use');
		const undo = (event: string) => undoEvent(db.sql, ines, { undo: event, key: randomUUID(), reason: 'wrong van' });
		await undo(sent.id);
		expect(await where('C-8')).toEqual(['QS/A1 1']);
		expect((await sheet(code)).transfer).toMatchObject({ side: 'leaves', inTransit: 0 });
		const again = await press(code, 'use');
		const arrived = await press(code, 'output');
		await expect(undo(again.id)).rejects.toThrow();
		await undo(arrived.id);
		expect(await where('C-8')).toEqual(['IN-TRANSIT 1']);
		expect((await order(code)).closedAt).toBeNull();
		await press(code, 'output');
	});

	it('what is on hold, expired or promised is not suggested; what was stopped on its way arrives all the same', async () => {
		const code = await transfer([{ item: 'CELL', qty: '1' }]);
		expect(await picks(code, 'use')).toEqual([['C-10', 'QS/A1', '1', false]]);
		const sale = await createDocument(db.sql, 'ines', {
			...{ kind: 'sale', partner: 'C1', place: 'QS', lines: [{ item: 'CELL', qty: '1' }] }
		});
		await makePromise(db.sql, ines, {
			key: randomUUID(),
			order: sale,
			line: 1,
			item: 'CELL',
			serial: 'C-10',
			qty: '1'
		});
		expect(await picks(code, 'use')).toEqual([['C-11', 'QS/A1', '1', false]]);
		await press(code, 'use');
		const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'C-11'`;
		await setStatus(db.sql, ines, { key: randomUUID(), act: 'hold', mark: id, reason: 'look at it' });
		expect(await scan(code, 'C-11', 'output')).toMatchObject({ taken: true });
		await press(code, 'output');
		expect(await where('C-11')).toEqual(['NG/B1 1']);
	});

	it('in transit it is free for nobody, at no door', async () => {
		const code = await transfer([{ item: 'CELL', qty: '1' }]);
		await press(code, 'use');
		const { leftOut, picks: free } = await allocationFor(db.sql, { item: 'CELL', qty: '50', purpose: 'shipment' });
		expect(leftOut).toContainEqual(
			expect.objectContaining({ serial: 'C-12', place: 'IN-TRANSIT', reason: 'in transit', message: 'in transit' })
		);
		expect(free.map((p) => p.serial)).not.toContain('C-12');
		const ship = { item: 'CELL', serial: 'C-12', qty: '1', from: 'IN-TRANSIT', to: '@customer' };
		await expect(bookTest(db.sql, { kind: 'shipment', partner: 'C1', movements: [ship] })).rejects.toThrow(
			'Serial C-12 is in transit, at IN-TRANSIT. Receive the transfer first.'
		);
		const sale = await createDocument(db.sql, 'ines', {
			...{ kind: 'sale', partner: 'C1', lines: [{ item: 'CELL', qty: '1' }] }
		});
		expect(await scan(sale, 'C-12', 'both')).toMatchObject({
			taken: false,
			said: 'C-12 is in transit. Receive its transfer first.'
		});
		await press(code, 'output');
	});

	it('between neighbours it arrives as it leaves; from wherever it is where no site is named', async () => {
		for (const site of ['QS', 'AN']) await saveSite(db.sql, 'ines', site, { area: 'Harbour' });
		const code = await createDocument(db.sql, 'ines', {
			...{ kind: 'transfer', to: 'AN/1', lines: [{ item: 'CELL', qty: '2' }] }
		});
		// One stands at a neighbour, the other at a site that is none: each goes as far as it does.
		expect(await scan(code, 'C-13', 'use')).toMatchObject({ taken: true });
		expect(await scan(code, 'C-11', 'use')).toMatchObject({ taken: false, said: expect.stringContaining('on hold') });
		expect(await scan(code, 'C-1', 'use')).toMatchObject({ taken: true, said: expect.stringContaining('from NG/B1') });
		await press(code, 'use');
		expect(await where('C-13')).toEqual(['AN/1 1']);
		expect(await where('C-1')).toEqual(['IN-TRANSIT 1']);
		await press(code, 'output');
		expect(await where('C-1')).toEqual(['AN/1 1']);
		expect((await order(code)).closedAt).not.toBeNull();
	});

	it('asks where it goes, and refuses its own site and what is no place', async () => {
		const make = (more: object) => transfer([{ item: 'CELL', qty: '1' }], more);
		await expect(make({ to: null })).rejects.toThrow('Choose where it goes.');
		await expect(make({ to: 'QS/A2' })).rejects.toThrow('QS/A2 is at QS, where it comes from.');
		await expect(make({ to: 'NOWHERE' })).rejects.toThrow('NOWHERE');
		await expect(make({ to: 'IN-TRANSIT' })).rejects.toThrow('IN-TRANSIT');
		await expect(make({ kind: 'sale', partner: 'C1' })).rejects.toThrow('Only a transfer goes to a place of ours');
	});

	it('what a program took from its way is not waited for', async () => {
		const code = await transfer([{ item: 'CELL', qty: '1' }]);
		await press(code, 'use');
		const [{ number }] = await db.sql<{ number: string }[]>`
			SELECT k.number FROM order_transit t JOIN mark k ON k.id = t.mark_id JOIN orders o ON o.id = t.order_id WHERE o.code = ${code}`;
		await bookTest(db.sql, {
			...{ kind: 'transfer', at: new Date().toISOString() },
			movements: [{ item: 'CELL', serial: number, qty: '1', from: 'IN-TRANSIT', to: 'NG/B2' }]
		});
		expect((await sheet(code)).transfer).toMatchObject({ inTransit: 0 });
		await expect(press(code, 'output')).rejects.toThrow('Nothing is entered yet');
		await closeShort(db.sql, ines, code, { key: randomUUID(), reason: 'a program received it' });
	});

	it('two who receive the same at once: one does, the other is told', async () => {
		const code = await transfer([{ item: 'CELL', qty: '1' }]);
		await press(code, 'use');
		const { stamp } = await sheet(code, 'output');
		const both = await Promise.allSettled(
			[1, 2].map(() => bookSheet(db.sql, ines, code, { key: randomUUID(), stamp, mode: 'output' }))
		);
		expect(both.map((b) => b.status).sort()).toEqual(['fulfilled', 'rejected']);
	});

	it('and the ledger holds', async () => {
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
