import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { readTagCode, readTagText } from '../../core/codes/epc.ts';
import { createItem } from '../setup/items.ts';
import { addPlace } from '../setup/places.ts';
import { saveStation } from '../setup/stations.ts';
import { addTag, letLeave, placeTag, tagDevices, tagsBefore } from './reader.ts';
import { setRoute } from './routes.ts';
import { scanOnFloor } from './scan.ts';
import { wayOf } from './steps.ts';

const db = testDatabase();
let station: { id: string; code: string; name: string };
let second = 0;
/** A scan, or what the reader found, eleven seconds after the one before. */
const act = (given: { text?: string; tag?: boolean; act?: string; operation?: string; soon?: boolean }) => {
	const { text = '', tag, soon, act: what = 'read', operation } = given;
	second += soon ? 2 : 11;
	const at = new Date(Date.UTC(2026, 2, 2, 8, 0, second)).toISOString();
	return scanOnFloor(db.sql, ines, station, { id: randomUUID(), text, tag, at, act: what, operation });
};
const tag = async (name: string) =>
	(
		await db.sql<{ id: string; epc: string; memory: string; station: string | null }[]>`
		SELECT id, epc, memory, station_id AS station FROM tag WHERE name = ${name}`
	)[0];
const put = async (name: string, at: string | null = 'CAL') => placeTag(db.sql, (await tag(name)).id, at);
const at = async (serial: string) => {
	const way = await wayOf(db.sql, 'METER', serial);
	return way && `${way.operation} ${way.state}, ${way.steps.length} steps`;
};

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	await createItem(db.sql, 'ines', {
		...{ code: 'METER', name: 'Meter', unit: 'each', tracking: 'serial', runMode: 'unit' },
		gtin: '09506000100425'
	});
	await createItem(db.sql, 'ines', { code: 'PLAIN', name: 'Plain', unit: 'each', tracking: 'serial', runMode: 'unit' });
	await saveStation(db.sql, 'ines', { code: 'CAL', name: 'Calibration', place: 'QS/A1', review: false }, true);
	const operations = [
		{ code: 'KIT', name: 'Kitting' },
		{ code: 'CAL', name: 'Calibration' }
	];
	for (const item of ['METER', 'PLAIN']) await setRoute(db.sql, 'ines', item, { operations });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			...['M-1', 'M-2', 'M-3'].map((serial) => ({ item: 'METER', serial })),
			{ item: 'PLAIN', serial: 'P-1' }
		].map((m) => ({ ...m, qty: '1', from: '@supplier', to: 'QS/A1' }))
	});
	[station] = await db.sql<{ id: string; code: string; name: string }[]>`SELECT id, code, name FROM station`;
	for (const name of ['T-1', 'T-2', 'T-3']) await addTag(db.sql, name);
});

describe('a tag', () => {
	it('is written with its unit’s release, by the standard’s code and with where the unit is; then its reads move the unit on', async () => {
		await put('T-1');
		expect(await act({ tag: true })).toMatchObject({ taken: false, said: expect.stringContaining('T-1 is blank') });
		expect(await act({ text: 'M-1', act: 'release' })).toMatchObject({ taken: true, wrote: true });
		const { epc, memory } = await tag('T-1');
		expect(readTagCode(epc)).toEqual({ gtin: '09506000100425', serial: 'M-1' });
		expect(readTagText(memory)).toMatchObject({ item: 'METER', serial: 'M-1', operation: 'KIT', state: 'queued' });
		expect(await act({ tag: true })).toMatchObject({ wrote: true, said: 'M-1 is now in process at Kitting.' });
		expect(readTagText((await tag('T-1')).memory)).toMatchObject({ operation: 'KIT', state: 'in process' });
		// The same again within ten seconds does nothing, and writes nothing.
		expect(await act({ tag: true, soon: true })).toMatchObject({ again: true, wrote: false });
		expect(await act({ tag: true })).toMatchObject({ said: 'M-1 is now queued at Calibration.' });
	});
	it('is looked at without being written, and another act goes by its next read', async () => {
		const before = await tag('T-1');
		expect(await act({ tag: true, act: 'look' })).toMatchObject({
			wrote: false,
			said: expect.stringContaining('M-1 is queued at Calibration since')
		});
		expect(await tag('T-1')).toEqual(before);
		expect(await act({ tag: true, act: 'hold' })).toMatchObject({
			wrote: true,
			said: 'M-1 is now on hold at Calibration.'
		});
		expect(await act({ tag: true })).toMatchObject({
			taken: false,
			wrote: false,
			said: expect.stringContaining('does not move')
		});
		expect(readTagText((await tag('T-1')).memory)).toMatchObject({ state: 'held' });
		await act({ tag: true, act: 'release hold' });
	});
	it('that is taken away before the write held has not moved its unit, and the station says so', async () => {
		const before = await at('M-1');
		const { id, memory } = await tag('T-1');
		await letLeave(db.sql, id);
		expect(await act({ tag: true })).toMatchObject({
			taken: false,
			wrote: false,
			said: 'M-1 was taken away before its tag was written: it has not moved. Put it back before the reader of Calibration.'
		});
		expect(await at('M-1')).toBe(before);
		expect(await tag('T-1')).toMatchObject({ memory, station: null });
		expect(await act({ tag: true })).toMatchObject({ said: expect.stringContaining('No tag lies before the reader') });
		await put('T-1');
		expect(await act({ tag: true })).toMatchObject({ taken: true, wrote: true });
	});
	it('beside another is not read: neither unit moves', async () => {
		await put('T-2');
		const before = await at('M-1');
		expect(await act({ tag: true })).toMatchObject({
			taken: false,
			said: '2 tags lie before the reader of Calibration: M-1 and T-2. Take all but one away; nothing was read.'
		});
		expect(await at('M-1')).toBe(before);
		// A card that is scanned meanwhile moves its unit as without a reader, and writes neither.
		expect(await act({ text: 'M-2', act: 'release' })).toMatchObject({ taken: true, wrote: false });
		await put('T-2', null);
	});
	it('of a unit that has no GTIN carries our own text; one that says two things is not believed', async () => {
		await put('T-1', null);
		await put('T-3');
		await act({ text: 'P-1', act: 'release' });
		const own = await tag('T-3');
		expect([own.epc, readTagText(own.memory)?.serial]).toEqual(['', 'P-1']);
		expect(await act({ tag: true })).toMatchObject({ taken: true, wrote: true });
		await db.owner`UPDATE tag SET epc = (SELECT epc FROM tag WHERE name = 'T-1') WHERE name = 'T-3'`;
		expect(await act({ tag: true })).toMatchObject({
			taken: false,
			said: 'Tag T-3 says M-1 in its code and P-1 in its memory. Take it off, and write a blank one.'
		});
		// Somebody else’s tag lies there: the card moves its unit, the tag stays as it is.
		const before = await tag('T-3');
		expect(await act({ text: 'M-2' })).toMatchObject({ taken: true, wrote: false });
		expect(await tag('T-3')).toEqual(before);
	});
	it('the devices show what each carries and what the readers did last; a name is given once', async () => {
		const { tags, uses } = await tagDevices(db.sql);
		expect(tags.find((t) => t.name === 'T-1')!.says).toContain('M-1 of METER');
		expect(new Set(uses.map((u) => u.did))).toEqual(new Set(['read', 'wrote', 'lost']));
		await expect(addTag(db.sql, 'T-1')).rejects.toThrow('already');
		await expect(placeTag(db.sql, '999', 'CAL')).rejects.toThrow('no such tag');
		expect((await tagsBefore(db.sql, station.id)).map((t) => t.name)).toEqual(['T-3']);
	});
	it('many at once all end, and the ledger holds', async () => {
		await put('T-3', null);
		await put('T-1');
		const all = await Promise.all(Array.from({ length: 20 }, () => act({ tag: true, act: 'look' })));
		expect(all.every((a) => a.taken)).toBe(true);
		const some = await Promise.all(Array.from({ length: 12 }, () => act({ tag: true })));
		expect(some.filter((a) => a.taken).length).toBeGreaterThan(0);
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
