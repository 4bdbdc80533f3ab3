import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, makeItems, testDatabase } from '../../../../tests/db/cluster.ts';
import type { Act } from '../../core/floor/moves.ts';
import { Problem } from '../../core/problem/problem.ts';
import { recordFact } from '../ledger/changes.ts';
import { undoEvent } from '../document/undo.ts';
import { saveFact } from '../setup/facts.ts';
import { saveStation } from '../setup/stations.ts';
import { addPlace } from '../setup/places.ts';
import { floorNow, yieldReport } from './report.ts';
import { routeOf, setRoute } from './routes.ts';
import { takeStep, wayOf } from './steps.ts';

const db = testDatabase();
let minute = 0;
/** A step a minute after the one before. */
const step = (serial: string, act: Act, more: object = {}, options: object = {}) =>
	takeStep(
		db.sql,
		ines,
		{
			key: randomUUID(),
			at: new Date(Date.UTC(2026, 2, 1, 8, ++minute)).toISOString(),
			item: 'METER',
			serial,
			act,
			...more
		},
		options
	);
const refusal = (work: Promise<unknown>) =>
	work.then(
		() => 'it went',
		(e: Problem) => e.message
	);
const route = {
	operations: [
		{ code: 'KIT', name: 'Kitting' },
		{ code: 'ASM', name: 'Assembly', recordsUse: true, stations: ['L1'] },
		{ code: 'TEST', name: 'Test', values: ['LEAK'] }
	]
};
const markOf = async (serial: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${serial}`)[0].id;

beforeAll(async () => {
	await makeItems(db.sql);
	for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	await saveStation(db.sql, 'ines', { code: 'L1', name: 'Line 1', place: 'QS/A1', review: false }, true);
	await saveStation(db.sql, 'ines', { code: 'L2', name: 'Line 2', place: 'QS/A1', review: false }, true);
	await saveFact(db.sql, 'ines', {
		code: 'LEAK',
		name: 'Leak rate',
		kind: 'number',
		unit: 'mL',
		decimals: 1,
		per: 'piece'
	});
	await setRoute(db.sql, 'ines', 'METER', route);
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: ['C-1', 'C-2'].map((serial) => ({
			item: 'CELL',
			lot: 'CL',
			serial,
			qty: '1',
			from: '@supplier',
			to: 'QS/A1'
		}))
	});
});

describe('a route', () => {
	it('is set once, kept with what was before, and refused where something of it is not known', async () => {
		expect(await setRoute(db.sql, 'ines', 'METER', route)).toBe(false);
		await expect(setRoute(db.sql, 'ines', 'NONE', route)).rejects.toMatchObject({ status: 404 });
		expect(await refusal(setRoute(db.sql, 'ines', 'RAW1', route))).toContain('RAW1 carries no serials');
		const wrong = {
			operations: [route.operations[0], { code: 'KIT', name: 'Again', stations: ['NO'], values: ['NO'] }]
		};
		const said = await refusal(setRoute(db.sql, 'ines', 'METER', wrong));
		for (const part of ['KIT stands in the route twice', 'no station NO', 'no extra field NO'])
			expect(said).toContain(part);
	});
	it('that changes counts for units that are released after it', async () => {
		await setRoute(db.sql, 'ines', 'KIT', {
			operations: [
				{ code: 'A', name: 'A' },
				{ code: 'B', name: 'B' }
			]
		});
		const kit = (serial: string, act: Act) => step(serial, act, { item: 'KIT' });
		await kit('K-1', 'release');
		await setRoute(db.sql, 'ines', 'KIT', { operations: [{ code: 'B', name: 'B' }] });
		expect((await routeOf(db.sql, 'KIT'))!.operations).toHaveLength(1);
		expect(await kit('K-2', 'release')).toEqual({ operation: 'B', state: 'queued' });
		expect(await kit('K-1', 'read')).toEqual({ operation: 'A', state: 'in process' });
	});
});

describe('a step', () => {
	it('makes an unknown serial known without anything in stock, and moves it on; and every step is kept', async () => {
		expect(await refusal(step('M-1', 'read'))).toContain('There is no M-1 of METER');
		expect(await step('M-1', 'release')).toEqual({ operation: 'KIT', state: 'queued' });
		const stock = await db.sql`SELECT 1 FROM balance b JOIN mark k ON k.id = b.mark_id WHERE k.number = 'M-1'`;
		expect(stock).toHaveLength(0);
		expect(await refusal(step('M-1', 'release'))).toContain('M-1 is released already');
		expect(await step('M-1', 'read')).toEqual({ operation: 'KIT', state: 'in process' });
		expect(await step('M-1', 'read', {}, { station: 'L2' })).toEqual({ operation: 'ASM', state: 'queued' });
		expect(await refusal(step('M-1', 'read', {}, { station: 'L2' }))).toContain(
			'Assembly of M-1 is done at L1, not at Line 2'
		);
		expect(await step('M-1', 'read', {}, { station: 'L1' })).toEqual({ operation: 'ASM', state: 'in process' });
		// Not before its parts are recorded.
		expect(await refusal(step('M-1', 'read'))).toContain('M-1 does not leave Assembly before its parts are recorded');
		await bookTest(db.sql, {
			kind: 'use',
			runs: [{ code: 'MO-1/M-1', unit: { item: 'METER', serial: 'M-1' } }],
			movements: [
				{
					item: 'CELL',
					lot: 'CL',
					serial: 'C-1',
					qty: '1',
					from: 'QS/A1',
					to: '@process',
					run: 'MO-1/M-1',
					role: 'use'
				}
			]
		});
		expect(await step('M-1', 'read')).toEqual({ operation: 'TEST', state: 'queued' });
		await step('M-1', 'read');
		// Not before its values are in.
		expect(await refusal(step('M-1', 'read'))).toContain('M-1 does not leave Test before Leak rate is recorded');
		await recordFact(db.sql, ines, {
			key: randomUUID(),
			mark: await markOf('M-1'),
			code: 'LEAK',
			value: '0.2',
			reason: ''
		});
		expect(await step('M-1', 'read')).toEqual({ operation: 'TEST', state: 'complete' });
		const way = (await wayOf(db.sql, 'METER', 'M-1'))!;
		expect(way.steps.map((s) => `${s.act} ${s.operation} ${s.state}`)).toEqual([
			'release KIT queued',
			'read KIT in process',
			'read ASM queued',
			'read ASM in process',
			'read TEST queued',
			'read TEST in process',
			'read TEST complete'
		]);
		expect(way.steps[3].station).toBe('Line 1');
	});
	it('is taken once by its key; a read within ten seconds does nothing; a clock that is behind is told', async () => {
		const key = randomUUID();
		const at = '2026-03-02T08:00:00Z';
		const first = await step('M-2', 'release', { key, at });
		expect(await step('M-2', 'release', { key, at })).toEqual({ ...first, known: true });
		await expect(step('M-2', 'scrap', { key, at })).rejects.toMatchObject({ status: 409 });
		await step('M-2', 'read', { at: '2026-03-02T08:01:00Z' });
		expect(await step('M-2', 'read', { at: '2026-03-02T08:01:09.999Z' })).toEqual({
			operation: 'KIT',
			state: 'in process',
			again: true
		});
		expect(await refusal(step('M-2', 'hold', { at: '2026-03-02T08:00:30Z' }))).toMatch(
			/M-2 was there at 2 Mar 2026 08:01:00.*before it\. Set the clock right/
		);
		expect(await step('M-2', 'read', { at: '2026-03-02T08:01:10Z' })).toEqual({ operation: 'ASM', state: 'queued' });
		expect(await refusal(step('M-2', 'hold', { at: '2099-01-01T00:00:00Z' }))).toContain('is in the future');
		expect((await wayOf(db.sql, 'METER', 'M-2'))!.steps).toHaveLength(3);
	});
	it('of two in the same second one counts; of many at once each is kept in order', async () => {
		await step('M-3', 'release', { at: '2026-03-03T08:00:00Z' });
		const both = await Promise.all([0, 1].map(() => step('M-3', 'read', { at: '2026-03-03T08:00:05Z' })));
		expect(both.map((b) => !!b.again).sort()).toEqual([false, true]);
		const acts = await Promise.allSettled(
			Array.from({ length: 12 }, (_, i) => step('M-3', i % 2 ? 'release hold' : 'hold', { at: '2026-03-03T09:00:00Z' }))
		);
		const went = acts.filter((a) => a.status === 'fulfilled').length;
		expect((await wayOf(db.sql, 'METER', 'M-3'))!.steps).toHaveLength(2 + went);
		for (const a of acts) if (a.status === 'rejected') expect(a.reason).toBeInstanceOf(Problem);
	});
	it('that is not confirmed has not been', async () => {
		await step('M-4', 'release');
		const lost = step(
			'M-4',
			'read',
			{},
			{ confirm: () => Promise.reject(new Problem('The tag left the field. Hold it there, and read again.')) }
		);
		expect(await refusal(lost)).toContain('The tag left the field');
		expect(await wayOf(db.sql, 'METER', 'M-4')).toMatchObject({ operation: 'KIT', state: 'queued', steps: [{}] });
	});
	it('cannot be undone by the back door, and an item without a route or serials is told so', async () => {
		expect(await refusal(step('X', 'release', { item: 'RAW1' }))).toContain('RAW1 carries no serials');
		expect(await refusal(step('C-2', 'release', { item: 'CELL' }))).toContain('CELL has no route');
		expect(await refusal(step('X', 'release', { item: 'NONE' }))).toContain('There is no item NONE');
		await expect(db.sql`UPDATE floor SET state = 'complete'`).rejects.toThrow('permission denied');
		await expect(db.owner`DELETE FROM step`).rejects.toThrow();
		const [{ id }] = await db.sql<{ id: string }[]>`SELECT event_id AS id FROM mark WHERE number = 'M-4'`;
		expect(await refusal(undoEvent(db.sql, ines, { event: id, key: randomUUID(), reason: 'x' } as never))).not.toBe(
			'it went'
		);
	});
});

it('the floor and the yield say what the steps say', async () => {
	await setRoute(db.sql, 'ines', 'KIT', {
		operations: [
			{ code: 'P', name: 'Press' },
			{ code: 'Q', name: 'Check' }
		]
	});
	const at = (n: number) => new Date(Date.UTC(2026, 3, 1, 8, n)).toISOString();
	const kit = (serial: string, act: Act, n: number, more: object = {}) =>
		step(serial, act, { item: 'KIT', at: at(n), ...more });
	for (const s of ['Y-1', 'Y-2', 'Y-3', 'Y-4']) await kit(s, 'release', 0);
	for (const s of ['Y-1', 'Y-2', 'Y-3']) await kit(s, 'read', 1);
	await kit('Y-1', 'read', 5);
	await kit('Y-2', 'rework', 5);
	await kit('Y-3', 'scrap', 5, { reason: 'cracked' });
	await kit('Y-4', 'hold', 6);
	const report = await yieldReport(db.sql, 'KIT', new Date(at(0)), new Date(at(60)));
	expect(
		report.operations.map((o) => [
			o.operation,
			o.started,
			o.passedFirst,
			o.reworked,
			o.scrapped,
			o.firstPassYield?.toFraction() ?? null
		])
	).toEqual([
		['P', 3, 1, 1, 1, '1/3'],
		['Q', 0, 0, 0, 0, null]
	]);
	expect(report.rolledThroughputYield).toBeNull();
	const floor = (await floorNow(db.sql, 'KIT')).map((o) => [
		o.code,
		o.counts.queued,
		o.counts['in process'],
		o.counts.held,
		o.counts.rework
	]);
	expect(floor).toEqual([
		['P', 0, 0, 1, 1],
		['Q', 1, 0, 0, 0],
		['A', 0, 1, 0, 0],
		['B', 1, 0, 0, 0]
	]);
	await expect(yieldReport(db.sql, 'NONE', new Date(), new Date())).rejects.toMatchObject({ status: 404 });
});
it('the ledger holds after all of it', async () => {
	expect(await findingsOf(db.sql)).toEqual([]);
});
