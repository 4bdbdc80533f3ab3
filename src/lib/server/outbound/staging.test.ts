import fc from 'fast-check';
import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { findingsOf, bookTest, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { press as pressed, takeScan } from '../../../../tests/db/sheets.ts';
import type { Mode } from '../../core/sheet/sheet.ts';
import { closeShort } from '../document/close.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { undoEvent } from '../document/undo.ts';
import { setStatus } from '../ledger/changes.ts';
import { addJob } from '../setup/jobs.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace, savePartner, setPlaceUse } from '../setup/places.ts';
import { saveRows } from '../sheet/drafts.ts';
import { sheetState } from '../sheet/state.ts';
import { allocationFor } from '../stock/allocations.ts';
import { makePromise, promisesTo } from '../document/promises.ts';
import { backTo, putBack } from './putback.ts';

const db = testDatabase();
const order = async (code: string) => (await getOrder(db.sql, code))!;
const sale = (item: string, qty: string, place = 'QS') =>
	createDocument(db.sql, 'ines', { kind: 'sale', partner: 'C1', place, lines: [{ item, qty }] });
const sheet = (code: string, mode: Mode = 'both') => sheetState(db.sql, code, mode);
const press = (code: string, mode: Mode, reason?: string) => pressed(db.sql, code, mode, reason);
const scan = async (code: string, text: string, mode: Mode) =>
	takeScan(db.sql, 'ines', await order(code), { id: randomUUID(), text }, mode);
const picks = async (code: string, mode: Mode) =>
	(await sheet(code, mode)).lines[0].cells.flatMap((c) => c.picks.map((p) => `${p.number} ${p.place} ${p.qty}`));
const where = async (number: string) =>
	(
		await db.sql<{ at: string }[]>`
			SELECT p.code || ' ' || trim_scale(b.qty) AS at FROM balance b JOIN mark k ON k.id = b.mark_id AND k.number = ${number} JOIN place p ON p.id = b.place_id
			WHERE b.qty > 0 AND NOT b.virtual ORDER BY p.code`
	).map((r) => r.at);
const markOf = async (number: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`)[0].id;
const back = (code: string, marks?: string[]) => putBack(db.sql, ines, code, { key: randomUUID(), marks });

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/A2', 'QS/OUT', 'HH', 'HH/A1'])
		await addPlace(db.sql, 'ines', { code, name: code });
	await setPlaceUse(db.sql, 'ines', 'QS/OUT', 'staging', true);
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'Customer', kind: 'customer' });
	await addJob(db.sql, 'ines', { code: 'LAB', name: 'Laboratory', kind: 'department' });
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
	const movement = (item: string, number: object, qty: string, to = 'QS/A1') => ({
		...{ item, qty, from: '@supplier', to },
		...number
	});
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			movement('GEL', { lot: 'G-1' }, '10'),
			movement('GEL', { lot: 'G-1' }, '5', 'QS/A2'),
			movement('GEL', { lot: 'G-2' }, '40', 'QS/A2'),
			movement('GEL', { lot: 'G-HH' }, '9', 'HH/A1'),
			...Array.from({ length: 12 }, (_, i) => movement('CELL', { serial: `C-${i + 1}` }, '1'))
		]
	});
});

describe('picking as an act of its own', () => {
	it('goes to where it waits, from several bins, and is shipped from there with one press', async () => {
		const code = await sale('GEL', '12');
		expect((await sheet(code)).staging).toEqual({ at: 'QS/OUT', bins: ['QS/OUT'], side: 'picks', waits: 0 });
		expect(await picks(code, 'use')).toEqual(['G-1 QS/A1 10', 'G-1 QS/A2 2']);
		await press(code, 'use');
		expect(await where('G-1')).toEqual(['QS/A2 3', 'QS/OUT 12']);
		const { lines, staging } = await sheet(code);
		expect(staging).toEqual({ at: 'QS/OUT', bins: ['QS/OUT'], side: 'ships', waits: 1 });
		expect(lines[0]).toMatchObject({ done: '0', open: '12' });
		expect(await picks(code, 'output')).toEqual(['G-1 QS/OUT 12']);
		await press(code, 'output');
		expect(await where('G-1')).toEqual(['QS/A2 3']);
		expect(await order(code)).toMatchObject({ lines: [{ done: '12' }], closedAt: expect.any(String) });
	});

	it('in parts: what is picked is not asked again, and only what waits can go', async () => {
		const code = await sale('CELL', '3');
		await scan(code, 'C-2', 'use');
		await press(code, 'use');
		expect((await sheet(code, 'use')).lines[0]).toMatchObject({ open: '2', done: '1' });
		expect(await picks(code, 'output')).toEqual(['C-2 QS/OUT 1']);
		expect(await scan(code, 'C-3', 'output')).toMatchObject({
			taken: false,
			said: 'C-3 is not picked yet: it is at QS/A1. Pick it first, under Picking.'
		});
		expect(await scan(code, 'C-2', 'use')).toMatchObject({
			taken: false,
			said: `C-2 is picked already: it waits at QS/OUT, for ${code}.`
		});
		await press(code, 'output');
		expect(await picks(code, 'use')).toEqual(['C-1 QS/A1 1', 'C-3 QS/A1 1']);
		await press(code, 'use');
		await press(code, 'output');
		expect((await order(code)).closedAt).not.toBeNull();
	});

	it('what a shipment asks is asked as it is picked, and what was answered is not asked again', async () => {
		const day = (ahead: number) => new Date(Date.now() + ahead * 86_400_000).toISOString().slice(0, 10);
		await addPartner(db.sql, 'ines', { code: 'C9', name: 'Far island', kind: 'customer' });
		await savePartner(db.sql, 'ines', 'C9', { name: 'Far island', kind: 'customer', minimumDaysLeft: 90 });
		await createItem(db.sql, 'ines', { code: 'DATED', name: 'Dated', unit: 'kg', decimals: 3, tracking: 'lot' });
		await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			movements: [
				{ item: 'DATED', lot: 'D-SOON', qty: '5', from: '@supplier', to: 'QS/A1', expiresOn: day(30) },
				{ item: 'DATED', lot: 'D-LATE', qty: '5', from: '@supplier', to: 'QS/A1', expiresOn: day(300) }
			]
		});
		const code = await createDocument(db.sql, 'ines', {
			...{ kind: 'sale', partner: 'C9', place: 'QS', lines: [{ item: 'DATED', qty: '2' }] }
		});
		expect(await picks(code, 'use')).toEqual(['D-LATE QS/A1 2']);
		expect(await scan(code, 'D-SOON', 'use')).toMatchObject({ taken: true });
		const asks = async (mode: Mode) => (await sheet(code, mode)).missing.filter((m) => m.level === 'reason');
		expect(await asks('use')).toMatchObject([{ code: 'little life', message: expect.stringContaining('90') }]);
		await expect(press(code, 'use')).rejects.toThrow('D-SOON');
		expect(await where('D-SOON')).toEqual(['QS/A1 5']);
		await press(code, 'use', 'They asked for it');
		expect(await asks('output')).toEqual([]);
		const [pick] = (await sheet(code, 'output')).lines[0].cells[0].picks;
		expect(pick.findings).toMatchObject([{ code: 'little life', level: 'note' }]);
		await press(code, 'output');
		expect((await order(code)).closedAt).not.toBeNull();
		const [shipped] = await db.sql`SELECT kind, reason FROM event ORDER BY id DESC LIMIT 1`;
		expect(shipped).toEqual({ kind: 'shipment', reason: 'They asked for it' });
		await expect(findingsOf(db.sql)).resolves.toEqual([]);
	});
	it('what may not be shipped is not picked to wait', async () => {
		const code = await sale('GEL', '1');
		await setStatus(db.sql, ines, { key: randomUUID(), act: 'hold', mark: await markOf('G-2'), reason: 'Cloudy' });
		const { id, lines } = await order(code);
		await saveRows(db.sql, 'ines', { id, code }, [
			{
				id: randomUUID(),
				lineId: lines[0].id,
				version: 0,
				data: { mark: await markOf('G-2'), place: 'QS/A2', qty: '1' }
			}
		]);
		expect((await sheet(code, 'use')).missing).toMatchObject([
			{ level: 'stop', message: expect.stringContaining('on hold') }
		]);
		await expect(press(code, 'use')).rejects.toThrow('on hold');
		await setStatus(db.sql, ines, {
			key: randomUUID(),
			act: 'release',
			mark: await markOf('G-2'),
			reason: 'Clear again'
		});
	});
	it('what waits is free for nobody else: not offered, refused to a scan, and taken only with a reason', async () => {
		const code = await sale('CELL', '1');
		await scan(code, 'C-4', 'use');
		await press(code, 'use');
		const { leftOut } = await allocationFor(db.sql, { item: 'CELL', qty: '50', purpose: 'use' });
		expect(leftOut).toContainEqual(
			expect.objectContaining({ serial: 'C-4', place: 'QS/OUT', reason: 'staged', message: `picked for ${code}` })
		);
		const other = await sale('CELL', '1');
		expect(await scan(other, 'C-4', 'use')).toMatchObject({
			taken: false,
			said: `C-4 is picked already: it waits at QS/OUT, picked for ${code}.`
		});
		const far = await createDocument(db.sql, 'ines', {
			...{ kind: 'issue', job: 'LAB', lines: [{ item: 'CELL', qty: '1' }] }
		});
		expect(await scan(far, 'C-4', 'both')).toMatchObject({
			taken: false,
			said: `C-4 is picked for ${code}, and waits at QS/OUT. Take another.`
		});
		const ship = (reason?: string) =>
			bookTest(db.sql, {
				...{ kind: 'shipment', partner: 'C1', reason, at: new Date().toISOString() },
				movements: [{ item: 'CELL', serial: 'C-4', qty: '1', from: 'QS/OUT', to: '@customer' }]
			});
		await expect(ship()).rejects.toThrow(`Serial C-4: this takes 1 that was picked for ${code}.`);
		await ship('the customer stands at the counter');
		// It waits no more: the order shows what is to be picked again.
		expect((await sheet(code)).staging).toMatchObject({ side: 'picks', waits: 0 });
		await closeShort(db.sql, ines, code, { key: randomUUID(), reason: 'the customer has it' });
	});

	it('is put back to the bins it came from, which are named; the rest waits on', async () => {
		const code = await sale('GEL', '6');
		const [g1, g2] = [await markOf('G-1'), await markOf('G-2')];
		const line = (await order(code)).lines[0].id;
		await saveRows(
			db.sql,
			'ines',
			await order(code),
			[
				[g1, '3'],
				[g2, '3']
			].map(([mark, qty]) => ({
				...{ id: randomUUID(), lineId: line, version: 0 },
				data: { mark, place: 'QS/A2', qty }
			}))
		);
		await press(code, 'use');
		await expect(closeShort(db.sql, ines, code, { key: randomUUID(), reason: 'no more' })).rejects.toThrow(
			'2 numbers are picked and wait. Ship them, or put them back, first.'
		);
		await expect(setPlaceUse(db.sql, 'ines', 'QS/OUT', 'staging', false)).rejects.toThrow(
			`What was picked for ${code} waits at QS/OUT.`
		);
		expect((await back(code, [g1])).back).toEqual([{ number: 'G-1', to: 'QS/A2' }]);
		expect(await where('G-1')).toEqual(['QS/A2 3']);
		expect(await picks(code, 'output')).toEqual(['G-2 QS/OUT 3']);
		const again = randomUUID();
		const once = await putBack(db.sql, ines, code, { key: again });
		expect(once.back).toEqual([{ number: 'G-2', to: 'QS/A2' }]);
		expect((await putBack(db.sql, ines, code, { key: again })).booked).toMatchObject({
			id: once.booked.id,
			again: true
		});
		await expect(back(code)).rejects.toThrow(`Nothing of ${code} waits.`);
		expect((await order(code)).lines[0].done).toBe('0');
	});

	it('held while it waits it is not shipped; a promise stands until it has gone; an undone pick is where it was', async () => {
		const code = await sale('CELL', '2');
		const promise = { order: code, line: 1, item: 'CELL', qty: '1' };
		await makePromise(db.sql, ines, { ...promise, key: randomUUID(), serial: 'C-9' });
		await scan(code, 'C-9', 'use');
		await scan(code, 'C-10', 'use');
		const picked = await press(code, 'use');
		const left = async () =>
			[...(await promisesTo(db.sql, await order(code), new Date())).values()].flat().map((p) => p.rest);
		expect(await left()).toEqual(['1']);
		await setStatus(db.sql, ines, { key: randomUUID(), act: 'hold', mark: await markOf('C-10'), reason: 'scratched' });
		expect(await picks(code, 'output')).toEqual(['C-9 QS/OUT 1']);
		expect((await sheet(code, 'output')).lines[0].leftOut).toMatchObject([{ number: 'C-10', reason: 'held' }]);
		const gone = await press(code, 'output');
		expect(await left()).toEqual([]);
		await undoEvent(db.sql, ines, { undo: gone.id, key: randomUUID(), reason: 'the van broke down' });
		expect(await left()).toEqual(['1']);
		await undoEvent(db.sql, ines, { undo: picked.id, key: randomUUID(), reason: 'wrong order' });
		expect(await where('C-9')).toEqual(['QS/A1 1']);
		expect((await sheet(code)).staging).toMatchObject({ waits: 0 });
	});

	it('waits at any of several places, one number at more than one', async () => {
		await addPlace(db.sql, 'ines', { code: 'QS/VAN', name: 'Van' });
		await setPlaceUse(db.sql, 'ines', 'QS/VAN', 'staging', true);
		const code = await sale('GEL', '8');
		const pick = async (qty: string, to?: string) => {
			const o = await order(code);
			await saveRows(db.sql, 'ines', o, [
				{
					...{ id: randomUUID(), lineId: o.lines[0].id, version: 0 },
					data: { mark: await markOf('G-2'), place: 'QS/A2', qty, ...(to ? { to } : {}) }
				}
			]);
			await press(code, 'use');
		};
		await pick('5', 'QS/VAN');
		await pick('3', 'NOWHERE');
		expect((await picks(code, 'output')).sort()).toEqual(['G-2 QS/OUT 3', 'G-2 QS/VAN 5']);
		await press(code, 'output');
		expect((await order(code)).closedAt).not.toBeNull();
		await setPlaceUse(db.sql, 'ines', 'QS/VAN', 'staging', false);
	});

	it('elsewhere it goes straight from the bin', async () => {
		const code = await sale('GEL', '4', 'HH');
		expect((await sheet(code)).staging).toBeUndefined();
		await press(code, 'both');
		expect(await where('G-HH')).toEqual(['HH/A1 5']);
	});

	it('a place is for one thing: no dock, no site', async () => {
		const use = (code: string, what: 'dock' | 'staging') => setPlaceUse(db.sql, 'ines', code, what, true);
		await expect(use('QS/OUT', 'dock')).rejects.toThrow('Picked goods wait at QS/OUT.');
		await expect(use('QS', 'staging')).rejects.toThrow('QS is a site.');
		await use('QS/A1', 'dock');
		await expect(use('QS/A1', 'staging')).rejects.toThrow('Goods arrive at QS/A1.');
	});

	it('what is put back is what waits, of what came last', () => {
		const came = fc.array(fc.record({ qty: fc.integer({ min: 1, max: 9 }), from: fc.constantFrom('A', 'B', 'C') }), {
			minLength: 1,
			maxLength: 8
		});
		fc.assert(
			fc.property(came, fc.integer({ min: 1, max: 100 }), (list, most) => {
				const waits = Math.min(
					most,
					list.reduce((n, c) => n + c.qty, 0)
				);
				const rows = backTo(
					list.map((c) => ({
						...{ line: '1', mark: '1', item: 'X', at: 'OUT', from: c.from, qty: String(c.qty), waits: String(waits) }
					}))
				);
				expect(rows.reduce((n, r) => n + Number(r.qty), 0)).toBe(waits);
				// The last that came go whole; only the one that is reached last goes in part.
				expect(rows.slice(0, -1).map((r) => Number(r.qty))).toEqual(list.slice(0, rows.length - 1).map((c) => c.qty));
			})
		);
	});

	it('and the ledger holds', async () => {
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
