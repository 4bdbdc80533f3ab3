import { beforeAll, describe, expect, it } from 'vitest';
import { randomUUID } from 'node:crypto';
import { bookTest, findingsOf, ines, makeItems, testDatabase } from '../../../../tests/db/cluster.ts';
import { addPlace, setPlaceUse } from '../setup/places.ts';
import { emptyInto } from './empty.ts';
import { lyingAt, MOST_LINES, putAway } from './putaway.ts';

const db = testDatabase();
const key = () => crypto.randomUUID() as string;
beforeAll(async () => {
	await makeItems(db.sql);
	const arrive = (movements: object[], to: string) =>
		bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S',
			movements: movements.map((m) => ({ qty: 1, from: '@supplier', to, ...m })) as never
		});
	await arrive([{ item: 'RAW1', lot: 'A', qty: 5 }], 'QS/A2');
	await arrive([{ item: 'RAW1', lot: 'B', qty: 9 }], 'QS/A1');
	await addPlace(db.sql, 'ines', { code: 'QS/DOCK', name: 'Dock' });
	await setPlaceUse(db.sql, 'ines', 'QS/DOCK', 'dock', true);
	await arrive(
		[
			{ item: 'RAW1', lot: 'C', qty: '10.5' },
			...['M-01', 'M-02', 'M-03', 'M-05'].map((serial) => ({ item: 'METER', serial }))
		],
		'QS/DOCK'
	);
});

describe('putting away', () => {
	it('shows what lies at the dock, serials as ranges, and where the same item lies already, the fullest bin first', async () => {
		const { lying } = await lyingAt(db.sql, 'QS/DOCK');
		expect(lying.map((l) => [l.kind, l.number, l.last, l.count, l.qty, l.suggested])).toEqual([
			['serial', 'M-01', 'M-03', 3, '3', []],
			['serial', 'M-05', 'M-05', 1, '1', []],
			['lot', 'C', null, 1, '10.5', ['QS/A1', 'QS/A2']]
		]);
	});
	it('suggests no bin that goods only pass through: where picked goods wait, what is in transit, another dock', async () => {
		const most = { item: 'RAW1', lot: 'MOST', qty: '9000', from: '@supplier' };
		for (const [code, use] of [
			['QS/OUT', 'staging'],
			['QS/DOCK2', 'dock']
		] as const) {
			await addPlace(db.sql, 'ines', { code, name: code });
			await setPlaceUse(db.sql, 'ines', code, use, true);
			await bookTest(db.sql, { kind: 'receipt', partner: 'S', movements: [{ ...most, to: code }] });
		}
		const lot = (await lyingAt(db.sql, 'QS/DOCK')).lying.find((l) => l.number === 'C')!;
		expect(lot.suggested).toEqual(['QS/A1', 'QS/A2']);
	});
	it('shows the first lines of much, says that there is more, and finds the others by number, lot or item', async () => {
		const lots = Array.from({ length: MOST_LINES + 5 }, (_, i) => `W-${i + 1}`);
		await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S',
			movements: lots.map((lot) => ({ item: 'RAW1', lot, qty: '1', from: '@supplier', to: 'QS/W1' }))
		});
		const all = await lyingAt(db.sql, 'QS/W1');
		expect([all.lying.length, all.more, all.lying[0].number]).toEqual([MOST_LINES, true, 'W-1']);
		const one = await lyingAt(db.sql, 'QS/W1', ` w-${MOST_LINES + 3}`);
		expect([one.lying.map((l) => l.number), one.more]).toEqual([[`W-${MOST_LINES + 3}`], false]);
		expect(await lyingAt(db.sql, 'QS/W1', 'raw1')).toMatchObject({ more: true });
		expect(await lyingAt(db.sql, 'QS/W1', 'no_such')).toEqual({ lying: [], more: false });
	});
	it('splits a lot over bins in one event; it stays one lot', async () => {
		const booked = await putAway(db.sql, ines, {
			key: key(),
			from: 'QS/DOCK',
			rows: [
				{ kind: 'lot', item: 'RAW1', number: 'C', count: 1, lot: null, qty: '4', to: 'QS/A1' },
				{ kind: 'lot', item: 'RAW1', number: 'C', count: 1, lot: null, qty: '6.5', to: 'QS/A2' },
				{ kind: 'serial', item: 'METER', number: 'M-01', count: 3, lot: null, qty: '3', to: 'QS/A2' }
			]
		});
		expect(booked.movements).toBe(5);
		const where = await db.sql<
			{ code: string; qty: string }[]
		>`SELECT p.code, trim_scale(b.qty)::text AS qty FROM balance b JOIN place p ON p.id = b.place_id JOIN mark k ON k.id = b.mark_id AND k.number = 'C' WHERE b.qty > 0 ORDER BY 1`;
		expect(where.map((w) => `${w.code} ${w.qty}`)).toEqual(['QS/A1 4', 'QS/A2 6.5']);
		expect((await lyingAt(db.sql, 'QS/DOCK')).lying.map((l) => l.number)).toEqual(['M-05']);
	});
	it.each([
		[
			{ kind: 'lot', item: 'RAW1', number: 'C', count: 1, lot: null, qty: '4.1', to: 'QS/A2' },
			'QS/A1',
			'4 kg at QS/A1, 4.1 asked for'
		],
		[
			{ kind: 'serial', item: 'METER', number: 'M-05', count: 1, lot: null, qty: '1', to: 'QS/NOWHERE' },
			'QS/DOCK',
			'There is no place QS/NOWHERE'
		],
		[
			{ kind: 'serial', item: 'METER', number: 'M-05', count: 1, lot: null, qty: '1', to: 'QS/DOCK' },
			'QS/DOCK',
			'to itself'
		]
	])('refuses, names the thing, and moves nothing: %j', async (row, from, sentence) => {
		const [{ n }] = await db.sql<{ n: number }[]>`SELECT count(*)::int AS n FROM movement`;
		await expect(putAway(db.sql, ines, { key: key(), from, rows: [row] })).rejects.toThrow(sentence);
		expect((await db.sql<{ n: number }[]>`SELECT count(*)::int AS n FROM movement`)[0].n).toBe(n);
	});

	it('empties a bin, or a site with all its bins, into another place in one act', async () => {
		const at = async (place: string) =>
			(
				await db.sql<{ n: number }[]>`
					SELECT count(*)::int AS n FROM balance b JOIN place p ON p.id = b.place_id WHERE b.qty > 0 AND NOT b.virtual AND (p.code = ${place} OR p.code LIKE ${place + '/%'})`
			)[0].n;
		await addPlace(db.sql, 'ines', { code: 'FAR', name: 'Far' });
		await addPlace(db.sql, 'ines', { code: 'FAR/1', name: 'One' });
		const empty = (from: string, to: string, key: string = randomUUID()) =>
			emptyInto(db.sql, ines, { key, from, to, reason: 'The shelf is mended' });
		await expect(empty('QS', 'QS/A1')).rejects.toThrow('QS/A1 is a bin of QS. Choose another.');
		await expect(empty('FAR/1', 'QS/A1')).rejects.toThrow('Nothing stands at FAR/1.');
		await expect(empty('QS', 'NOWHERE')).rejects.toThrow('There is no place NOWHERE.');
		await expect(empty('IN-TRANSIT', 'FAR')).rejects.toThrow('There is no place IN-TRANSIT.');
		const all = await at('QS');
		expect(all).toBeGreaterThan(1);
		const key = randomUUID();
		const { id, movements } = await empty('QS', 'FAR/1', key);
		expect(movements).toBeGreaterThanOrEqual(all);
		expect(await at('QS')).toBe(0);
		expect(await empty('QS', 'FAR/1', key)).toMatchObject({ id, again: true });
		const [event] = await db.sql`SELECT kind, reason FROM event WHERE id = ${id}`;
		expect(event).toMatchObject({ kind: 'transfer', reason: 'The shelf is mended' });
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
