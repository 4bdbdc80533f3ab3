import { randomUUID } from 'node:crypto';
import Fraction from 'fraction.js';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { sheets } from '../../../../tests/db/sheets.ts';
import { closeShort } from '../document/close.ts';
import { getOrder } from '../document/orders.ts';
import { undoEvent } from '../document/undo.ts';
import { createItem, listItems } from '../setup/items.ts';
import { addPlace } from '../setup/places.ts';
import { sheetState } from '../sheet/state.ts';
import { backAnswer, forwardAnswer } from '../../../../tests/traced.ts';
import { findPairings } from '../pairing/find.ts';
import { wentInto } from '../trace/real.ts';
import { addByproduct } from './beside.ts';
import { giveBack } from './giveback.ts';

const db = testDatabase();
const { make, type, bookNow } = sheets(db);
const markOf = async (number: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`)[0].id;
const lineOf = async (code: string, item: string) =>
	(await getOrder(db.sql, code))!.lines.find((l) => l.item === item)!;
const standsAt = async (number: string) =>
	(
		await db.sql<{ at: string }[]>`
			SELECT p.code || ' ' || trim_scale(b.qty) AS at FROM balance b JOIN place p ON p.id = b.place_id JOIN mark k ON k.id = b.mark_id
			WHERE k.number = ${number} AND NOT b.virtual AND b.qty > 0 ORDER BY 1`
	).map((r) => r.at);
const back = async (code: string, number: string, qty: string, place = 'QS/A2') =>
	giveBack(db.sql, ines, code, { key: randomUUID(), rows: [{ mark: await markOf(number), qty, place }] });

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/A2']) await addPlace(db.sql, 'ines', { code, name: code });
	const lot = { decimals: 2, tracking: 'lot' as const };
	await createItem(db.sql, 'ines', { code: 'TUBE', name: 'Tube', unit: 'm', ...lot });
	await createItem(db.sql, 'ines', { code: 'CHIPS', name: 'Chips', unit: 'kg', ...lot });
	await createItem(db.sql, 'ines', { code: 'REST', name: 'Remnant', unit: 'm', ...lot });
	await createItem(db.sql, 'ines', { code: 'CAP', name: 'Cap', unit: 'each', tracking: 'none' });
	await createItem(db.sql, 'ines', {
		...{ code: 'RING', name: 'Ring', unit: 'each', tracking: 'lot' },
		parts: [
			{ item: 'TUBE', qty: '0.5' },
			{ item: 'CAP', qty: '1' }
		],
		byproducts: [{ item: 'CHIPS', qty: '0.02' }]
	});
	await createItem(db.sql, 'ines', {
		...{ code: 'UNIT', name: 'Unit', unit: 'each', tracking: 'serial', runMode: 'unit' },
		parts: [{ item: 'CAP', qty: '1' }]
	});
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			{ item: 'TUBE', lot: 'T1', qty: '20', from: '@supplier', to: 'QS/A1' },
			{ item: 'CAP', qty: '100', from: '@supplier', to: 'QS/A1' }
		]
	});
});

describe('a batch', () => {
	it('comes out as several lots, some today and the rest later, with what the parts list says comes out beside it', async () => {
		const code = await make('RING', '10');
		expect((await getOrder(db.sql, code))!.lines.map((l) => `${l.role} ${l.item} ${l.qty}`)).toEqual([
			'output RING 10',
			'byproduct CHIPS 0.2',
			'component CAP 10',
			'component TUBE 5'
		]);
		await type(code, 'TUBE', { mark: await markOf('T1'), place: 'QS/A1', qty: '6' });
		await bookNow(code, 'use');
		await type(code, 'RING', { lot: 'R1a', qty: '5' }, { lot: 'R1b', qty: '3' });
		await type(code, 'CHIPS', { lot: 'CH1', qty: '0.15' });
		const sheet = await sheetState(db.sql, code, 'output');
		expect(sheet.missing.map((m) => m.message)).toEqual(['2 still to make', '0.05 kg still to come']);
		await bookNow(code, 'output');
		expect([await standsAt('R1a'), await standsAt('R1b'), await standsAt('CH1')]).toEqual([
			['QS/A1 5'],
			['QS/A1 3'],
			['QS/A1 0.15']
		]);
		// The order is about its rings: what else comes out does not keep it open.
		await type(code, 'RING', { lot: 'R1c', qty: '2' });
		await bookNow(code, 'output');
		expect((await getOrder(db.sql, code))!.closedAt).not.toBeNull();
		const from = (await backAnswer(db.sql, { item: 'CHIPS', lot: 'CH1', serial: null }, {}))!;
		expect(from.marks.map((m) => m.lot)).toContain('T1');
		expect(await findingsOf(db.sql)).toEqual([]);
	});

	it('gives back what was not used: it lies in its bin again, its batch has less of it, and the trace adds up', async () => {
		const code = await make('RING', '10');
		await type(code, 'TUBE', { mark: await markOf('T1'), place: 'QS/A1', qty: '6' });
		await bookNow(code, 'use');
		await type(code, 'RING', { lot: 'R2', qty: '8' });
		await bookNow(code, 'output');
		const left = (await sheetState(db.sql, code)).leftOver!;
		// 8 rings take 4 m of the 6 that went in; of the caps 10 went in for 8.
		expect(left.map((l) => [l.itemName, l.qty, l.over, l.place])).toEqual(
			expect.arrayContaining([
				['Tube', '6', '2', 'QS/A1'],
				['Cap', '10', '2', 'QS/A1']
			])
		);
		await back(code, 'T1', '2');
		expect((await lineOf(code, 'TUBE')).done).toBe('4');
		expect(await standsAt('T1')).toContain('QS/A2 2');
		const trace = (await forwardAnswer(db.sql, { item: 'TUBE', lot: 'T1', serial: null }, {}))!;
		const sum = trace.where.reduce((s, w) => s.add(w.content), new Fraction(0));
		expect([trace.rootQty, sum.toFraction()]).toEqual(['20', '20']);
		const ring = trace.where.find((w) => 'lot' in w && w.lot === 'R2')!;
		const inProcess = trace.where.find((w) => w.state === 'in process' && 'run' in w && w.run === code)!;
		// 8 of 10 planned rings are out: they have 8/10 of the 4 m that stayed in.
		expect([ring.content, inProcess.content]).toEqual(['16/5', '4/5']);
		// Parts in units says what stayed in, whole or in part.
		const used = async () =>
			(await findPairings(db.sql, { order: code, partItem: 'TUBE' }, undefined, 10)).rows.map((r) => [
				r.qty,
				r.formerly
			]);
		expect(await used()).toEqual([['4', false]]);
		await type(code, 'TUBE', { mark: await markOf('T1'), place: 'QS/A1', qty: '1' });
		await bookNow(code, 'use');
		await back(code, 'T1', '1.5');
		expect((await used()).sort()).toEqual([
			['1', true],
			['3.5', false]
		]);
		expect(await findingsOf(db.sql)).toEqual([]);
	});

	it('gives no more back than is in it, from no other order, to no place that is none, and nothing once it is closed', async () => {
		const code = await make('RING', '4');
		await type(code, 'TUBE', { mark: await markOf('T1'), place: 'QS/A1', qty: '3' });
		await bookNow(code, 'use');
		await expect(back(code, 'T1', '3.01')).rejects.toThrow(
			`Lot T1: 3 m are in ${code}, 3.01 are to come out. Check the quantity.`
		);
		const mark = await markOf('T1');
		const twice = { key: randomUUID(), rows: Array(2).fill({ mark, qty: '2', place: 'QS/A2' }) };
		await expect(giveBack(db.sql, ines, code, twice)).rejects.toThrow('1 m are in');
		await expect(back(code, 'T1', '1', 'QS/NONE')).rejects.toThrow('QS/NONE');
		await expect(back(code, 'T1', '1', '')).rejects.toThrow('choose the bin that it goes back to');
		await expect(back(code, 'R2', '1')).rejects.toThrow(`This is not in ${code} any more`);
		const undone = await back(code, 'T1', '1');
		await undoEvent(db.sql, ines, { undo: undone.id, key: randomUUID(), reason: 'Wrong' });
		expect((await lineOf(code, 'TUBE')).done).toBe('3');
		await type(code, 'RING', { lot: 'R3', qty: '2' });
		await bookNow(code, 'output');
		await closeShort(db.sql, ines, code, { key: randomUUID(), reason: 'Enough' });
		expect((await sheetState(db.sql, code)).leftOver).toEqual([]);
		await expect(back(code, 'T1', '1')).rejects.toThrow(`This is not in ${code} any more`);
		expect(await findingsOf(db.sql)).toEqual([]);
	});

	it('of a unit nothing is given back this way: its parts are taken out on its page', async () => {
		const use = { item: 'CAP', qty: '1', run: 'LONE', role: 'use' as const };
		await bookTest(db.sql, {
			kind: 'use',
			runs: [{ code: 'LONE', unit: { item: 'UNIT', serial: 'U1' } }],
			movements: [{ ...use, from: 'QS/A1', to: '@process' }]
		});
		const out = { ...use, role: 'detach' as const, from: '@process', to: 'QS/A1' };
		await bookTest(db.sql, { kind: 'service', movements: [out] });
		await expect(bookTest(db.sql, { kind: 'service', movements: [out] })).rejects.toThrow('0 each are in U1');
	});
});

describe('what really went in', () => {
	it('of a lot is its share of the batch, less what was given back; of what was bought nothing', async () => {
		// 8 of R2’s batch are its only output, with 3.5 m of tube left in it and 10 caps; 8 rings were to take 4 m and 8 caps.
		const of = async (number: string) => {
			const real = await wentInto(db.sql, await markOf(number));
			return real && [...real.went.parts.values()].map((p) => [p.item, p.qty.toFraction()]);
		};
		expect(await of('R2')).toEqual([
			['CAP', '10'],
			['TUBE', '7/2']
		]);
		// Rings and chips share theirs: 5 of 10.15, since not all of it states what it holds.
		expect(await of('R1a')).toEqual([
			['CAP', new Fraction(10).mul(5).div('10.15').toFraction()],
			['TUBE', new Fraction(6).mul(5).div('10.15').toFraction()]
		]);
		expect(await of('T1')).toBeNull();
	});
});

describe('what comes out beside it', () => {
	it('may be something that the parts list does not name', async () => {
		const code = await make('RING', '2');
		await addByproduct(db.sql, code, { item: 'REST', qty: '0.4' });
		await type(code, 'RING', { lot: 'R4', qty: '2' });
		await type(code, 'REST', { lot: 'RE1', qty: '0.35' });
		await bookNow(code);
		expect(await standsAt('RE1')).toEqual(['QS/A1 0.35']);
	});
	it('is refused with its way out where it is none', async () => {
		const code = await make('RING', '2');
		const add = (item: string, qty = '1') => addByproduct(db.sql, code, { item, qty });
		await expect(add('TUBE')).rejects.toThrow('What was not used of it is given back');
		await expect(add('CHIPS')).rejects.toThrow(`Chips stands in ${code} already`);
		await expect(add('NONE')).rejects.toThrow('NONE');
		await expect(add('REST', '0.001')).rejects.toThrow('has 3 decimals');
		const units = await make('UNIT', '2');
		await expect(addByproduct(db.sql, units, { item: 'REST', qty: '1' })).rejects.toThrow('made one by one');
		const wrong = { code: 'BAD', name: 'Bad', unit: 'each', tracking: 'serial' as const };
		await expect(
			createItem(db.sql, 'ines', { ...wrong, runMode: 'unit', byproducts: [{ item: 'REST', qty: '1' }] })
		).rejects.toThrow('Leave its by-products out');
		expect((await listItems(db.sql, 'RING'))[0].byproducts).toEqual([{ item: 'CHIPS', qty: '0.02' }]);
	});
});
