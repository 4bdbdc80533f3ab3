import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, makeItems, testDatabase } from '../../../../tests/db/cluster.ts';
import type { UnitPart } from '../../core/pairing/unit.ts';
import { undoEvent } from '../document/undo.ts';
import { addPlace } from '../setup/places.ts';
import { backAnswer, forwardAnswer } from '../../../../tests/traced.ts';
import { unitPage } from './contents.ts';
import { rebuildUnit } from './rebuild.ts';

const db = testDatabase();
const markOf = async (item: string, number: string) => {
	const [{ id }] = await db.sql<{ id: string }[]>`
		SELECT k.id FROM mark k JOIN item i ON i.id = k.item_id WHERE i.code = ${item} AND k.number = ${number}`;
	return id;
};
const names = (parts: readonly UnitPart[]): unknown[] =>
	parts.map((p) => (p.parts.length ? [p.number || p.item, names(p.parts)] : `${p.number || p.item} ${p.qty}`));
const inside = async (mark: string, at: 'built' | 'now' | Date = 'now') =>
	names((await unitPage(db.sql, mark, at))!.parts);
const rebuild = async (mark: string, parts: object[], more: object = {}) =>
	rebuildUnit(db.sql, ines, mark, { key: randomUUID(), reason: 'Probe drifts', parts, ...more });
const where = async (number: string) => {
	const rows = await db.sql<{ code: string; qty: string; status: string }[]>`
		SELECT p.code, trim_scale(b.qty)::text AS qty, n.status FROM mark k JOIN mark_now n ON n.id = k.id JOIN balance b ON b.mark_id = k.id AND b.qty > 0 JOIN place p ON p.id = b.place_id
		WHERE k.number = ${number} ORDER BY 1`;
	return rows.map((r) => `${r.code} ${r.qty} ${r.status}`);
};
/** A meter of a cell, gel and two caps; a kit of a meter. */
async function build(serial: string, cell: string) {
	await bookTest(db.sql, {
		kind: 'output',
		at: '2026-03-02T08:00:00Z',
		runs: [{ code: `M/${serial}`, unit: { item: 'METER', serial } }],
		movements: [
			{ item: 'CELL', serial: cell, qty: '1', from: 'QS/A1', to: '@process', run: `M/${serial}`, role: 'use' },
			{ item: 'GEL', lot: 'G1', qty: '0.5', from: 'QS/A1', to: '@process', run: `M/${serial}`, role: 'use' },
			{ item: 'CAP', qty: '2', from: 'QS/A1', to: '@process', run: `M/${serial}`, role: 'use' },
			{ item: 'METER', serial, qty: '1', from: '@process', to: 'QS/A2', run: `M/${serial}`, role: 'make' }
		]
	});
	return markOf('METER', serial);
}

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/A2']) await addPlace(db.sql, 'ines', { code, name: code });
	await makeItems(db.sql);
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			...['C1', 'C2', 'C3', 'C4', 'C5', 'C9'].map((serial) => ({ item: 'CELL', lot: 'CL', serial, qty: '1' })),
			{ item: 'GEL', lot: 'G1', qty: '10' },
			{ item: 'GEL', lot: 'G2', qty: '0.2' },
			{ item: 'CAP', qty: '100' }
		].map((m) => ({ ...m, from: '@supplier', to: 'QS/A1' }))
	});
});

describe('a finished unit', () => {
	it('gets another part in the place of one that comes out on hold: as built and as maintained are both there, at any time', async () => {
		const meter = await build('M1', 'C1');
		await rebuild(meter, [{ mark: await markOf('CELL', 'C1'), to: 'hold', place: 'QS/A2', instead: 'C2' }]);
		expect(await inside(meter)).toEqual(['CAP 2', 'C2 1', 'G1 0.5']);
		expect(await inside(meter, 'built')).toEqual(['CAP 2', 'C1 1', 'G1 0.5']);
		expect(await inside(meter, new Date('2026-03-02T23:00:00Z'))).toEqual(['CAP 2', 'C1 1', 'G1 0.5']);
		expect(await inside(meter, new Date('2026-03-01T23:00:00Z'))).toEqual([]);
		expect((await unitPage(db.sql, meter, 'now'))!.planned).toEqual([]);
		expect(await where('C1')).toEqual(['QS/A2 1 held']);
		const back = (await backAnswer(db.sql, { item: 'METER', lot: null, serial: 'M1' }, {}))!;
		expect(back.marks.filter((m) => m.item === 'CELL' && m.serial).map((m) => m.serial)).toEqual(['C2']);
		expect(back.formerly).toEqual([expect.objectContaining({ item: 'CELL', serial: 'C1' })]);
		const forward = (await forwardAnswer(db.sql, { item: 'CELL', lot: null, serial: 'C1' }, {}))!;
		expect(forward.marks.find((m) => m.serial === 'M1')).toMatchObject({ now: false });
	});
	it('shows what is in the units inside it, as they were then', async () => {
		const meter = await build('M2', 'C3');
		await bookTest(db.sql, {
			kind: 'output',
			at: '2026-03-03T08:00:00Z',
			runs: [{ code: 'K/K1', unit: { item: 'KIT', serial: 'K1' } }],
			movements: [
				{ item: 'METER', serial: 'M2', qty: '1', from: 'QS/A2', to: '@process', run: 'K/K1', role: 'use' },
				{ item: 'KIT', serial: 'K1', qty: '1', from: '@process', to: 'QS/A2', run: 'K/K1', role: 'make' }
			]
		});
		const kit = await markOf('KIT', 'K1');
		expect(await inside(kit)).toEqual([['M2', ['CAP 2', 'C3 1', 'G1 0.5']]]);
		// What is inside another unit lies on no shelf: it is taken out first.
		await expect(rebuild(meter, [{ mark: await markOf('CELL', 'C3'), to: 'scrap' }])).rejects.toThrow('M2 is not here');
		await rebuild(kit, [{ mark: meter, to: 'bin', place: 'QS/A1' }]);
		expect(await inside(kit)).toEqual([]);
		expect(await inside(kit, 'built')).toEqual([['M2', ['CAP 2', 'C3 1', 'G1 0.5']]]);
		expect(await where('M2')).toEqual(['QS/A1 1 released']);
	});
	it('is taken apart into what is really in it: numbers stay, what carries none is stock again, the rest is scrapped; and undone', async () => {
		const meter = await build('M3', 'C4');
		const [before] = await db.sql<{ qty: string }[]>`
			SELECT trim_scale(sum(b.qty))::text AS qty FROM balance b JOIN mark k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id JOIN place p ON p.id = b.place_id
			WHERE i.code = 'CAP' AND p.code = 'QS/A1'`;
		const cap = (await unitPage(db.sql, meter, 'now'))!.parts.find((p) => p.item === 'CAP')!;
		const booked = await rebuild(
			meter,
			[
				{ mark: await markOf('CELL', 'C4'), to: 'bin', place: 'QS/A1' },
				{ mark: await markOf('GEL', 'G1'), to: 'scrap' },
				{ mark: cap.mark, to: 'bin', place: 'QS/A1' }
			],
			{ scrapRest: true }
		);
		expect(await inside(meter)).toEqual([]);
		expect(await where('C4')).toEqual(['QS/A1 1 released']);
		expect(await where('M3')).toEqual(['@scrap 1 released']);
		const [after] = await db.sql<{ qty: string }[]>`
			SELECT trim_scale(sum(b.qty))::text AS qty FROM balance b JOIN mark k ON k.id = b.mark_id JOIN item i ON i.id = k.item_id JOIN place p ON p.id = b.place_id
			WHERE i.code = 'CAP' AND p.code = 'QS/A1'`;
		expect(Number(after.qty) - Number(before.qty)).toBe(2);
		await undoEvent(db.sql, ines, { undo: booked.id, key: randomUUID(), reason: 'Wrong meter' });
		expect(await inside(meter)).toEqual(['CAP 2', 'C4 1', 'G1 0.5']);
		expect(await where('M3')).toEqual(['QS/A2 1 released']);
	});
	it('scraps of a lot what came out of the unit, and nothing of what lies on the shelf', async () => {
		await build('M9', 'C9');
		const serve = (scrapped: string) =>
			bookTest(db.sql, {
				kind: 'service',
				at: '2026-03-04T08:00:00Z',
				reason: 'leaks',
				runs: [{ code: 'M/M9', unit: { item: 'METER', serial: 'M9' } }],
				movements: [
					{ item: 'GEL', lot: 'G1', qty: '0.5', from: '@process', to: 'QS/A1', run: 'M/M9', role: 'detach' },
					{ item: 'GEL', lot: 'G1', qty: scrapped, from: 'QS/A1', to: '@scrap' }
				]
			});
		await expect(serve('0.6')).rejects.toThrow('did not come out of it');
		expect((await where('G1')).some((w) => w.startsWith('@scrap 0.6'))).toBe(false);
		await serve('0.5');
	});
	it('refuses what cannot be, says why, and changes nothing', async () => {
		const meter = await build('M4', 'C5');
		const cell = await markOf('CELL', 'C5');
		const refused = (parts: object[], more: object = {}) =>
			rebuild(meter, parts, more).catch((e) => (e as Error).message);
		expect(await refused([])).toContain('Nothing is chosen yet');
		expect(await refused([{ mark: cell, to: 'bin' }])).toContain('choose the bin');
		expect(await refused([{ mark: cell, to: 'bin', place: 'QS/NOWHERE' }])).toContain('QS/NOWHERE');
		expect(await refused([{ mark: await markOf('CELL', 'C2'), to: 'scrap' }])).toContain('not in M4 any more');
		expect(await refused([{ mark: cell, to: 'scrap', instead: 'C9' }])).toContain('C9 of CELL lies nowhere here');
		expect(await refused([{ mark: cell, to: 'scrap', instead: 'C1' }])).toContain('C1 is on hold');
		const gel = await markOf('GEL', 'G1');
		expect(await refused([{ mark: gel, to: 'hold', place: 'QS/A1' }])).toContain('is no serial');
		expect(await refused([{ mark: gel, to: 'scrap', instead: 'G2' }])).toContain('0.5 are to go in, 0.2 lie here');
		expect(await refused([{ mark: gel, to: 'scrap', qty: '0.6' }])).toContain('0.5');
		expect(await refused([{ mark: gel, to: 'scrap', qty: 'some', instead: 'G2' }])).toContain('Lot G1');
		expect(await refused([{ mark: cell, to: 'scrap' }], { reason: '' })).toContain('Say why');
		// What is refused leaves no part on hold.
		expect(await refused([{ mark: cell, to: 'hold', place: 'QS/A1', instead: 'C1' }])).toContain('C1 is on hold');
		expect(await refused([{ mark: cell, to: 'hold', place: 'QS/NOWHERE' }])).toContain('QS/NOWHERE');
		expect(await db.sql`SELECT status FROM mark WHERE id = ${cell}`).toEqual([{ status: 'released' }]);
		expect(await inside(meter)).toEqual(['CAP 2', 'C5 1', 'G1 0.5']);
		await expect(rebuild(cell, [{ mark: gel, to: 'scrap' }])).rejects.toThrow('no unit with parts');
	});
	it('books once under one key, and leaves a ledger that holds', async () => {
		const meter = await markOf('METER', 'M4');
		const input = { key: 'once', reason: 'Probe drifts', parts: [{ mark: await markOf('CELL', 'C5'), to: 'scrap' }] };
		const first = await rebuildUnit(db.sql, ines, meter, input);
		expect(await rebuildUnit(db.sql, ines, meter, input)).toMatchObject({ id: first.id, again: true });
		await expect(rebuildUnit(db.sql, ines, meter, { ...input, reason: 'Other' })).rejects.toThrow();
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
