import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, makeItems, testDatabase } from '../../../../tests/db/cluster.ts';
import { Problem } from '../../core/problem/problem.ts';
import type { EventInput } from '../../core/ledger/input.ts';
import { connect } from '../database/connect.ts';
import { undoEvent } from '../document/undo.ts';
import { addPartner } from '../setup/places.ts';
import { savePolicy } from '../setup/policy.ts';
import { setStatus, setStatusContained } from './changes.ts';
import { checkNow, readEvent } from './book.ts';

const db = testDatabase();
const markOf = async (number: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`)[0].id;
const statusOf = async (number: string) =>
	(await db.sql<{ status: string }[]>`SELECT status FROM mark WHERE number = ${number}`)[0].status;
const set = async (number: string, act: string) =>
	setStatus(db.sql, ines, { key: randomUUID(), reason: 'looked at', act, mark: await markOf(number) });
const setAll = async (number: string, act: string) => {
	const given = { key: randomUUID(), reason: 'recall', act, mark: await markOf(number) };
	const { changed, gone, booked } = await setStatusContained(db.sql, ines, given);
	return {
		booked,
		changed: changed.map((c) => c.number),
		gone: gone.map((c) => [c.number, ...c.gone.map((g) => g.customer ?? g.at)])
	};
};
const meter = (serial: string, cell: string) =>
	bookTest(db.sql, {
		kind: 'output',
		runs: [{ code: `M/${serial}`, unit: { item: 'METER', serial } }],
		movements: [
			{ item: 'CELL', serial: cell, qty: '1', from: 'QS/A1', to: '@process', run: `M/${serial}`, role: 'use' },
			{ item: 'GEL', lot: 'G1', qty: '0.5', from: 'QS/A1', to: '@process', run: `M/${serial}`, role: 'use' },
			{ item: 'METER', serial, qty: '1', from: '@process', to: 'QS/A2', run: `M/${serial}`, role: 'make' }
		]
	});
const kit = (serial: string, inside: string) =>
	bookTest(db.sql, {
		kind: 'output',
		runs: [{ code: `K/${serial}`, unit: { item: 'KIT', serial } }],
		movements: [
			{ item: 'METER', serial: inside, qty: '1', from: 'QS/A2', to: '@process', run: `K/${serial}`, role: 'use' },
			{ item: 'KIT', serial, qty: '1', from: '@process', to: 'QS/A2', run: `K/${serial}`, role: 'make' }
		]
	});
const shipping = (
	item: string,
	serial: string,
	more: Partial<EventInput> = {}
): Partial<EventInput> & Pick<EventInput, 'kind'> => ({
	...{ kind: 'shipment', partner: 'CARRAWAY' },
	movements: [{ item, serial, qty: '1', from: 'QS/A2', to: '@customer' }],
	...more
});
const said = async (event: object) => {
	const { findings } = await checkNow(db.sql, readEvent({ key: 'see', at: '2026-03-02T08:00:00Z', ...event }));
	return findings.filter((f) => f.code === 'contains stopped').map((f) => [f.level, f.say([f.about!])]);
};
/** How many statements a look at an event takes. */
async function statements(event: object): Promise<number> {
	let n = 0;
	const sql = connect(db.url, 'app', 4, () => n++);
	const look = () => checkNow(sql, readEvent({ key: 'n', at: '2026-03-02T08:00:00Z', ...event }));
	await look();
	n = 0;
	await look();
	await sql.end();
	return n;
}

beforeAll(async () => {
	await makeItems(db.sql);
	await addPartner(db.sql, 'ines', { code: 'CARRAWAY', name: 'Carraway Pools', kind: 'customer' });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			...['C1', 'C2', 'C3', 'C4', 'C5', 'C6'].map((serial) => ({ item: 'CELL', lot: 'CL', serial, qty: '1' })),
			...['D1', 'D2'].map((serial) => ({ item: 'CELL', lot: 'DL', serial, qty: '1' })),
			{ item: 'GEL', lot: 'G1', qty: '20' }
		].map((m) => ({ ...m, from: '@supplier', to: 'QS/A1' }))
	});
	for (const [m, c] of [
		['M1', 'C1'],
		['M2', 'C2'],
		['M3', 'C3'],
		['M4', 'D1']
	])
		await meter(m, c);
	await kit('K1', 'M1');
	await kit('K2', 'M2');
});

describe('what leaves and contains something that is stopped', () => {
	it('wants a reason, on every level, and the sentence names the part', async () => {
		expect(await said(shipping('KIT', 'K1'))).toEqual([]);
		await set('C1', 'hold');
		const says = 'Serial K1 contains Serial C1, which is on hold. Take another, or say why it goes.';
		expect(await said(shipping('KIT', 'K1'))).toEqual([['reason', says]]);
		const refused = await bookTest(db.sql, shipping('KIT', 'K1')).catch((e) => e);
		expect(refused).toBeInstanceOf(Problem);
		expect(refused.message).toContain('contains Serial C1');
		// What holds another of its lot goes.
		expect(await said(shipping('KIT', 'K2'))).toEqual([]);
		await set('C1', 'release');
	});
	it('also where its lot is stopped, and into what it is used', async () => {
		await set('CL', 'hold');
		expect(await said(shipping('METER', 'M3'))).toHaveLength(1);
		expect(await said(shipping('METER', 'M4'))).toEqual([]);
		const uses = {
			kind: 'output',
			runs: [{ code: 'K/K9', unit: { item: 'KIT', serial: 'K9' } }],
			movements: [{ item: 'METER', serial: 'M3', qty: '1', from: 'QS/A2', to: '@process', run: 'K/K9', role: 'use' }]
		};
		expect(await said(uses)).toHaveLength(1);
		// What is scrapped or moved asks nothing.
		expect(
			await said({ kind: 'move', movements: [{ item: 'METER', serial: 'M3', qty: '1', from: 'QS/A2', to: 'QS/A1' }] })
		).toEqual([]);
		await set('CL', 'release');
	});
	it('is what the firm makes of it: a note, a reason or a stop', async () => {
		await set('C3', 'reject');
		for (const level of ['note', 'stop', 'reason'] as const) {
			await savePolicy(db.sql, 'ines', { 'contains stopped': level });
			expect((await said(shipping('METER', 'M3')))[0][0]).toBe(level);
		}
		await set('C3', 'release');
	});
	it('no more where the part was taken out', async () => {
		await meter('M5', 'C5');
		await set('C5', 'hold');
		expect(await said(shipping('METER', 'M5'))).toHaveLength(1);
		await bookTest(db.sql, {
			kind: 'service',
			at: '2026-03-02T07:00:00Z',
			runs: [{ code: 'M/M5', unit: { item: 'METER', serial: 'M5' } }],
			movements: [{ item: 'CELL', serial: 'C5', qty: '1', from: '@process', to: 'QS/A1', run: 'M/M5', role: 'detach' }]
		});
		expect(await said(shipping('METER', 'M5'))).toEqual([]);
		await set('C5', 'release');
	});
	it('is asked in one statement, and in none where nothing in the firm is stopped', async () => {
		const none = await statements(shipping('KIT', 'K2'));
		await set('D2', 'hold');
		expect(await statements(shipping('KIT', 'K2'))).toBe(none + 1);
		await set('D2', 'release');
	});
});

describe('a hold with all that contains it', () => {
	it('holds what is here as one event, names what has gone, and is undone as one', async () => {
		await bookTest(db.sql, shipping('KIT', 'K2', { at: '2026-03-02T08:00:00Z' }));
		const { changed, gone, booked } = await setAll('CL', 'hold');
		// M1 is in K1, M2 in K2, which has gone: what they are in says it.
		expect([...changed].sort((a, b) => a.localeCompare(b))).toEqual(['CL', 'K1', 'M3']);
		expect(gone).toEqual([['K2', 'CARRAWAY']]);
		expect([await statusOf('K1'), await statusOf('K2'), await statusOf('M4')]).toEqual([
			'held',
			'released',
			'released'
		]);
		await undoEvent(db.sql, ines, { undo: booked.id, key: randomUUID(), reason: 'another lot' });
		expect([await statusOf('CL'), await statusOf('K1'), await statusOf('M3')]).toEqual([
			'released',
			'released',
			'released'
		]);
	});
	it('released the same way frees only what it stopped, and nothing that holds another stopped part', async () => {
		await set('M3', 'hold');
		await setAll('CL', 'hold');
		expect(await statusOf('K1')).toBe('held');
		await setAll('G1', 'hold');
		// K1 holds gel of a lot that is stopped as well; M3 was stopped by itself before.
		expect((await setAll('CL', 'release')).changed).toEqual(['CL']);
		const freed = (await setAll('G1', 'release')).changed;
		expect(freed).toContain('G1');
		expect(await statusOf('M3')).toBe('held');
		await set('M3', 'release');
	});
	it('leaves alone what is stopped otherwise, and says where nothing is left to do', async () => {
		await set('M3', 'reject');
		await setAll('C3', 'hold');
		expect([await statusOf('C3'), await statusOf('M3')]).toEqual(['held', 'rejected']);
		await expect(setAll('C3', 'hold')).rejects.toThrow('nothing of it is to be changed');
	});
	it('and the ledger holds', async () => {
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
