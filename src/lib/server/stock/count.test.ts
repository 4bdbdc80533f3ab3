import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { createItem } from '../setup/items.ts';
import { saveFirm } from '../setup/firm.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { allocationFor } from './allocations.ts';
import { accuracy, bookCount, countState, countTotal, makeCount, restNotThere, takeCount } from './count.ts';

const db = testDatabase();
const make = (more: object = {}) => makeCount(db.sql, ines, { place: 'QS/A1', ...more });
const take = (code: string, given: object, by = 'tobi') =>
	takeCount(db.sql, by, code, { id: randomUUID(), place: 'QS/A1', ...given });
const state = (code: string, at: string | null = null) => countState(db.sql, code, at);
/** Books with one reason for all that differs. */
const bookNow = async (code: string, who: Actor = ines) => {
	const s = await state(code);
	const reasons = Object.fromEntries(s.differences.map((d) => [d.key, 'Cause not found']));
	return bookCount(db.sql, who, code, { key: randomUUID(), stamp: s.stamp, reasons });
};
const lies = async (number: string) =>
	(
		await db.sql<{ code: string; qty: string }[]>`
			SELECT p.code, trim_scale(b.qty)::text AS qty FROM balance b JOIN mark k ON k.id = b.mark_id JOIN place p ON p.id = b.place_id
			WHERE k.number = ${number} AND b.qty > 0 AND NOT b.virtual ORDER BY p.code`
	).map((b) => `${b.code} ${b.qty}`);
const lot = (number: string, qty: string, to = 'QS/A1', item = 'GEL', more = {}) => ({
	...{ item, lot: number, qty, from: '@supplier', to },
	...more
});
const serial = (number: string, to = 'QS/A2') => ({ item: 'CELL', serial: number, qty: '1', from: '@supplier', to });

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/A2', 'QS/B1', 'QS/B2', 'QS/C1', 'ND', 'ND/A1'])
		await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'SKEN', name: 'Sken', kind: 'customer' });
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
	await createItem(db.sql, 'ines', { code: 'CAP', name: 'Cap', unit: 'each', tracking: 'none' });
	await bookTest(db.sql, {
		...{ kind: 'receipt', partner: 'S1' },
		movements: [
			...[lot('G-1', '6'), lot('G-2', '20'), lot('G-3', '5')],
			{ item: 'CAP', qty: '100', from: '@supplier', to: 'QS/A1' },
			...['C-1', 'C-2', 'C-3', 'C-4'].map((n) => serial(n)),
			...['C-5', 'C-6'].map((n) => serial(n, 'QS/B1')),
			...[lot('O-1', '4', 'QS/B2'), lot('O-2', '10', 'QS/B2'), lot('O-3', '6', 'QS/B2')],
			lot('N-1', '3', 'ND/A1')
		]
	});
	await bookTest(db.sql, {
		...{ kind: 'shipment', partner: 'SKEN', at: '2026-03-02T08:00:00Z' },
		movements: [{ item: 'CELL', serial: 'C-6', qty: '1', from: 'QS/B1', to: '@customer' }]
	});
});

describe('a count', () => {
	it('of lots: scans with quantities and one press; differences are laid on each lot with their reason', async () => {
		const code = await make();
		const before = await state(code);
		// What is expected is not shown to whoever counts.
		expect(before.rows.map((r) => [r.number, r.expected, r.counted])).toEqual([
			['CAP', null, null],
			['G-1', null, null],
			['G-2', null, null],
			['G-3', null, null]
		]);
		expect(await take(code, { text: 'G-1' })).toMatchObject({
			taken: true,
			said: 'How much of G-1?',
			ask: { unit: 'kg' }
		});
		expect(await take(code, { text: 'G-1', qty: '6' })).toMatchObject({ taken: true, said: 'G-1: 6 kg' });
		expect(await take(code, { text: 'G-2', qty: '18.5' })).toMatchObject({ taken: true });
		// A second heap of it.
		expect(await take(code, { text: 'G-2', qty: '+0.5' })).toMatchObject({ taken: true, said: 'G-2: 19 kg' });
		expect(await take(code, { text: 'CAP', qty: '104' })).toMatchObject({ taken: true, said: 'Cap: 104' });
		expect(await take(code, { text: 'G-2', qty: 'many' })).toMatchObject({ taken: false });
		const s = await state(code);
		expect(s).toMatchObject({ asked: 4, counted: 3, right: 1 });
		expect(s.differences.map((d) => [d.number, d.expected, d.counted, d.change])).toEqual([
			['CAP', '100', '104', '4'],
			['G-2', '20', '19', '-1']
		]);
		await expect(bookCount(db.sql, ines, code, { key: 'x', stamp: s.stamp })).rejects.toThrow(
			'G-2 at QS/A1: choose why it is -1.'
		);
		await expect(bookNow(code, { ...ines, role: 'receiving and shipping' })).rejects.toThrow(
			'Only a coordinator can adjust stock.'
		);
		const booked = (await bookNow(code))!;
		expect(booked.movements).toBe(2);
		expect(await lies('G-2')).toEqual(['QS/A1 19']);
		// Not counted: as it was.
		expect(await lies('G-3')).toEqual(['QS/A1 5']);
		const rows =
			await db.sql`SELECT k.number, a.name AS reason FROM counted c JOIN mark k ON k.id = c.mark_id LEFT JOIN reason a ON a.id = c.reason_id ORDER BY k.number`;
		expect(rows.map((r) => [r.number, r.reason])).toEqual([
			['G-1', null],
			['G-2', 'Cause not found'],
			[null, 'Cause not found']
		]);
		expect(await take(code, { text: 'G-1', qty: '6' })).toMatchObject({
			taken: false,
			said: expect.stringContaining('is closed since')
		});
		expect(await accuracy(db.sql)).toMatchObject([{ counts: 1, lines: 3, right: 1 }]);
	});

	it('of serials: one missing, one that lies elsewhere, one that nobody knows, one that was shipped', async () => {
		const code = await make({ place: 'QS/A2' });
		const at = { place: 'QS/A2' };
		for (const text of ['C-1', 'C-2'])
			expect(await take(code, { ...at, text })).toMatchObject({ taken: true, said: text });
		expect(await take(code, { ...at, text: 'C-5' })).toMatchObject({ taken: true });
		expect(await take(code, { ...at, text: 'C-6' })).toMatchObject({ taken: true });
		expect(await take(code, { ...at, text: 'C-77' })).toMatchObject({ taken: false, unknown: 'C-77' });
		expect(await take(code, { ...at, fresh: { item: 'CELL', number: 'C-77' } })).toMatchObject({ taken: true });
		expect(await restNotThere(db.sql, 'tobi', code, at)).toBe(2);
		const s = await state(code);
		expect(s.differences.map((d) => [d.number, d.change, d.elsewhere])).toEqual([
			['C-3', '-1', null],
			['C-4', '-1', null],
			['C-5', '1', 'QS/B1'],
			['C-6', '1', null],
			['C-77', '1', null]
		]);
		// One that was shipped does not come back by a count.
		expect(s.missing.join(' ')).toContain('Serial C-6 was shipped to Sken on 2 Mar 2026. Enter it as a return.');
		await expect(bookNow(code)).rejects.toThrow('was shipped to Sken');
		const c6 = s.rows.find((r) => r.number === 'C-6')!.mark!;
		await take(code, { ...at, mark: c6, back: true });
		// What was not there, or not expected, is counted again by somebody else.
		expect((await state(code)).differences.map((d) => [d.number, d.second])).toEqual([
			['C-3', 'wanted'],
			['C-4', 'wanted'],
			['C-5', 'wanted'],
			['C-77', 'wanted']
		]);
		await expect(bookNow(code)).rejects.toThrow('another person counts it again');
		// The one of them lay behind the other.
		expect(await take(code, { ...at, text: 'C-3' }, 'rhea')).toMatchObject({ taken: true });
		expect(await take(code, { ...at, text: 'C-4', qty: '0' }, 'rhea')).toMatchObject({
			taken: true,
			said: 'C-4: not there'
		});
		await take(code, { ...at, text: 'C-5' }, 'rhea');
		await take(code, { ...at, fresh: { item: 'CELL', number: 'C-77' } }, 'rhea');
		expect(await take(code, { ...at, text: 'C-4' }, 'tobi')).toMatchObject({
			taken: false,
			said: expect.stringContaining('You counted it before')
		});
		await bookNow(code);
		expect(await lies('C-3')).toEqual(['QS/A2 1']);
		expect(await lies('C-4')).toEqual([]);
		expect(await lies('C-5')).toEqual(['QS/A2 1']);
		expect(await lies('C-77')).toEqual(['QS/A2 1']);
	});

	it('sent twice counts once; a bin’s label says whose turn it is; another site is none of it', async () => {
		const code = await make({ place: 'QS' });
		const id = randomUUID();
		const again = () => takeCount(db.sql, 'tobi', code, { id, place: 'QS/B2', text: 'O-1', qty: '+4' });
		await again();
		await again();
		expect((await state(code, 'QS/B2')).rows.find((r) => r.number === 'O-1')?.counted).toBe('4');
		expect(await take(code, { text: 'qs/b1' })).toMatchObject({ taken: true, place: 'QS/B1' });
		expect(await take(code, { place: 'ND/A1', text: 'N-1', qty: '1' })).toMatchObject({
			taken: false,
			said: expect.stringContaining('is no place of QS')
		});
	});

	it('is made of items, of what was not counted since a day, or of some in a random sample', async () => {
		expect((await state(await make({ place: 'QS', items: ['CELL'] }))).asked).toBe(5);
		const all = (await state(await make({ place: 'QS' }))).asked;
		expect((await state(await make({ place: 'QS', notSince: '2026-11-01' }))).asked).toBeLessThan(all);
		expect((await state(await make({ place: 'QS', sample: 3 }))).asked).toBe(3);
		expect((await state(await make({ place: 'QS/C1' }))).places).toEqual([
			{ code: 'QS/C1', asked: 0, counted: 0, differences: 0 }
		]);
		await expect(make({ items: ['NONE'] })).rejects.toThrow('NONE');
		await expect(make({ place: 'QS/C1', items: ['GEL'] })).rejects.toThrow('nothing there');
		await expect(make({ notSince: 'yesterday' })).rejects.toThrow();
	});

	it('of a total is laid on the lots, as proposed or as somebody says, and must add up', async () => {
		const code = await make({ place: 'QS/B2' });
		const total = (given: object) =>
			countTotal(db.sql, 'tobi', code, { place: 'QS/B2', item: 'GEL', total: '15', ...given });
		const proposed = await total({});
		expect(proposed).toMatchObject({ expected: '20', entered: false });
		expect(proposed.lots.map((l) => [l.number, l.change])).toEqual([
			['O-1', '-4'],
			['O-2', '-1'],
			['O-3', '0']
		]);
		const [, second] = proposed.lots;
		await expect(total({ laid: [{ mark: second.mark, change: '-4' }] })).rejects.toThrow(
			'adds up to 16, and 15 were counted: 1 less to lay.'
		);
		expect(await total({ laid: [{ mark: second.mark, change: '-5' }] })).toMatchObject({ entered: true });
		expect((await state(code)).differences.map((d) => [d.number, d.change])).toEqual([['O-2', '-5']]);
	});

	it('work goes on meanwhile: the differences are exactly those that were planted', async () => {
		const lots = Array.from({ length: 20 }, (_, n) => `W-${String(n + 1).padStart(2, '0')}`);
		await bookTest(db.sql, {
			...{ kind: 'receipt', partner: 'S1', at: '2026-03-03T08:00:00Z' },
			movements: lots.map((n) => lot(n, '100', 'QS/C1'))
		});
		await saveFirm(db.sql, 'ines', { countLimit: '' });
		const code = await make({ place: 'QS/C1' });
		const planted = new Map([
			['W-03', '-2'],
			['W-11', '1.5'],
			['W-20', '-0.25']
		]);
		/** What lies there really: as booked, with what was planted. */
		const real = new Map(lots.map((n) => [n, 100 + Number(planted.get(n) ?? 0)]));
		let booked = 0;
		const go = async (n: string, qty: string) => {
			await bookTest(db.sql, {
				...{ kind: 'move', at: '2026-03-04T08:00:00Z' },
				movements: [{ item: 'GEL', lot: n, qty, from: 'QS/C1', to: 'QS/A1' }]
			});
			real.set(n, real.get(n)! - Number(qty));
			booked++;
		};
		for (const [n, number] of lots.entries()) {
			await Promise.all(Array.from({ length: 5 }, (_, k) => go(lots[(n * 7 + k) % 20], '0.5')));
			await take(code, { place: 'QS/C1', text: number, qty: String(real.get(number)) });
			await Promise.all(Array.from({ length: 5 }, (_, k) => go(lots[(n * 3 + k * 11) % 20], '0.25')));
		}
		expect(booked).toBe(200);
		const { differences } = await state(code);
		expect(new Map(differences.map((d) => [d.number, d.change]))).toEqual(planted);
		await bookNow(code);
		for (const n of lots) expect((await lies(n)).find((l) => l.startsWith('QS/C1'))).toBe(`QS/C1 ${real.get(n)}`);
		await saveFirm(db.sql, 'ines', { countLimit: '10' });
	});

	it('what lies where somebody is counting is not offered until it was counted', async () => {
		const code = await make({ place: 'QS/C1' });
		const left = async () =>
			(await allocationFor(db.sql, { item: 'GEL', qty: '1', site: 'QS/C1', purpose: 'shipment' })).leftOut
				.filter((l) => l.reason === 'counted now')
				.map((l) => l.lot);
		expect(await left()).toEqual([]);
		const [{ qty }] = await db.sql<
			{ qty: string }[]
		>`SELECT trim_scale(b.qty)::text AS qty FROM balance b JOIN mark k ON k.id = b.mark_id AND k.number = 'W-01' JOIN place p ON p.id = b.place_id AND p.code = 'QS/C1'`;
		await take(code, { place: 'QS/C1', text: 'W-01', qty });
		expect(await left()).toHaveLength(19);
		expect(await left()).not.toContain('W-01');
		const s = await state(code);
		// Nothing differs: it is closed without an event.
		expect(await bookCount(db.sql, ines, code, { key: randomUUID(), stamp: s.stamp })).toBeNull();
		expect(await left()).toEqual([]);
	});

	it('a booking meanwhile that takes too much of what was missing is named, and so is a count that changed', async () => {
		await saveFirm(db.sql, 'ines', { countLimit: '' });
		const code = await make({ place: 'ND/A1' });
		await take(code, { place: 'ND/A1', text: 'N-1', qty: '1' });
		const s = await state(code);
		await bookTest(db.sql, {
			...{ kind: 'adjust', at: '2026-03-05T08:00:00Z', reason: 'Spilt' },
			movements: [{ item: 'GEL', lot: 'N-1', qty: '2.5', from: 'ND/A1', to: '@adjust' }]
		});
		const reasons = Object.fromEntries(s.differences.map((d) => [d.key, 'Cause not found']));
		await expect(bookCount(db.sql, ines, code, { key: randomUUID(), stamp: s.stamp, reasons })).rejects.toThrow(
			'while you looked at it'
		);
		expect((await state(code)).missing.join()).toContain('N-1');
		await expect(bookNow(code)).rejects.toThrow('N-1');
		// Counted once more, as it is now.
		await take(code, { place: 'ND/A1', text: 'N-1', qty: '0.5' });
		await bookNow(code);
		expect(await lies('N-1')).toEqual(['ND/A1 0.5']);
	});

	it('leaves a ledger that adds up', async () => {
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
