import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { undoEvent } from '../document/undo.ts';
import { setStatus } from '../ledger/changes.ts';
import { createItem } from '../setup/items.ts';
import { addPlace } from '../setup/places.ts';
import { saveRows } from '../sheet/drafts.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import { backAnswer, forwardAnswer } from '../../../../tests/traced.ts';
import { repackRecord } from './repackrecord.ts';
import { takeScan } from '../../../../tests/db/sheets.ts';

const db = testDatabase();
type Typed = Record<string, string | number | boolean>;
async function repack(from: string, out: Record<string, string>, code?: string) {
	const lines = Object.entries(out).map(([item, qty]) => ({ item, qty }));
	return createDocument(db.sql, 'ines', { kind: 'repack', from, place: 'QS/A2', lines, code });
}
const lineOf = async (code: string, item: string) =>
	(await getOrder(db.sql, code))!.lines.find((l) => l.item === item)!.id;
async function type(code: string, item: string, data: Typed) {
	const order = (await getOrder(db.sql, code))!;
	await saveRows(db.sql, 'ines', order, [{ id: randomUUID(), lineId: await lineOf(code, item), data, version: 0 }]);
}
const sheet = (code: string) => sheetState(db.sql, code);
const bookNow = async (code: string, reason?: string) =>
	bookSheet(db.sql, ines, code, { key: randomUUID(), stamp: (await sheet(code)).stamp, reason });
const said = async (code: string) => (await sheet(code)).missing.map((m) => `${m.level}: ${m.message}`);
const markOf = async (item: string, number: string) => {
	const [{ id }] = await db.sql<{ id: string }[]>`
		SELECT k.id FROM mark k JOIN item i ON i.id = k.item_id WHERE i.code = ${item} AND k.number = ${number}`;
	return id;
};
const stock = async () =>
	(
		await db.sql<{ s: string }[]>`
		SELECT i.code || ' ' || coalesce(k.number, '–') || ' ' || p.code || ' ' || trim_scale(b.qty) AS s FROM balance b JOIN mark k ON k.id = b.mark_id
		JOIN item i ON i.id = k.item_id JOIN place p ON p.id = b.place_id WHERE NOT p.virtual AND b.qty <> 0 ORDER BY 1`
	).map((r) => r.s);
const takeIn = (movements: { item: string; lot?: string; qty: string; expiresOn?: string; supplierLot?: string }[]) =>
	bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: movements.map((m) => ({ ...m, from: '@supplier', to: 'QS/A1' }))
	});

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/A2']) await addPlace(db.sql, 'ines', { code, name: code });
	const holds = (contentQty: string) => ({ tracking: 'lot', unit: 'each', contentQty, contentUnit: 'kg' });
	for (const [code, qty] of Object.entries({ P3: '3', P2: '2', P1: '1', P25: '25' }))
		await createItem(db.sql, 'ines', { code, name: `Pack ${qty} kg`, ...holds(qty) });
	await createItem(db.sql, 'ines', {
		code: 'SALT',
		name: 'Salt',
		unit: 'kg',
		decimals: 3,
		tracking: 'lot',
		contentQty: '1',
		contentUnit: 'kg'
	});
	await createItem(db.sql, 'ines', {
		code: 'OIL',
		name: 'Oil',
		unit: 'L',
		tracking: 'lot',
		contentQty: '1',
		contentUnit: 'L'
	});
	await createItem(db.sql, 'ines', { code: 'PLAIN', name: 'Plain', unit: 'each', tracking: 'none' });
	await takeIn([
		{ item: 'P3', lot: 'A', qty: '30', expiresOn: '2031-05-01', supplierLot: 'THEIRS-9' },
		{ item: 'SALT', lot: 'S1', qty: '25', expiresOn: '2030-01-01' },
		{ item: 'SALT', lot: 'S2', qty: '25', expiresOn: '2030-06-01' }
	]);
});

describe('a repacking', () => {
	it('30 packs of 3 kg into 30 of 1 kg and 30 of 2 kg: the same lot, its date and the supplier’s lot, on the other items', async () => {
		const code = await repack('P3', { P1: '30', P2: '30' });
		const s = await sheet(code);
		expect(s.lines.map((l) => [l.role, l.item, l.qty])).toEqual([
			['component', 'P3', '30'],
			['output', 'P1', '30'],
			['output', 'P2', '30']
		]);
		expect(s.repack!.lots).toMatchObject([{ number: 'A', in: '90', lost: '0', left: '0' }]);
		expect(s.ready).toBe(true);
		await bookNow(code);
		expect(await stock()).toEqual(expect.arrayContaining(['P1 A QS/A2 30', 'P2 A QS/A2 30']));
		const kept =
			await db.sql`SELECT i.code, k.expires_on AS "expiresOn", k.supplier_lot AS "supplierLot" FROM mark k JOIN item i ON i.id = k.item_id
			WHERE k.number = 'A' AND i.code <> 'P3' ORDER BY 1`;
		expect([...kept]).toEqual([
			{ code: 'P1', expiresOn: '2031-05-01', supplierLot: 'THEIRS-9' },
			{ code: 'P2', expiresOn: '2031-05-01', supplierLot: 'THEIRS-9' }
		]);
		const trace = (await forwardAnswer(db.sql, { item: 'P3', lot: 'A', serial: null }, {}))!;
		// In packs of 3 kg: 30 packs of 1 kg are 10 of them, 30 of 2 kg are 20.
		expect(trace.where.map((w) => [w.item, w.state, w.content]).sort()).toEqual([
			['P1', 'on hand', '10'],
			['P2', 'on hand', '20']
		]);
		expect((await getOrder(db.sql, code))!.closedAt).not.toBeNull();
		const [event] = (await sheet(code)).events;
		expect(
			Buffer.from((await repackRecord(db.sql, code, event.id))!)
				.subarray(0, 5)
				.toString()
		).toBe('%PDF-');
		expect(await repackRecord(db.sql, code, '999999')).toBeNull();
	});

	it('keeps lots apart, says what would mix, and mixes under a new number with the earliest date only when that is chosen', async () => {
		const code = await repack('SALT', { P2: '25' });
		expect((await sheet(code)).repack!.lots.map((l) => [l.number, l.in, l.left])).toEqual([
			['S1', '25', '1'],
			['S2', '25', '1']
		]);
		expect(await said(code)).toEqual([
			'stop: 1 of Pack 2 kg would hold more than one lot. Pack less, take more of one lot in, or choose that it mixes'
		]);
		await expect(bookNow(code)).rejects.toThrow('more than one lot');
		await type(code, 'SALT', { mixing: 'rest' });
		expect(await said(code)).toEqual([
			'stop: Pack 2 kg that holds more than one lot needs a new lot number. Type or draw it'
		]);
		await type(code, 'P2', { lot: 'MIX-1' });
		expect((await sheet(code)).missing).toEqual([]);
		await bookNow(code);
		expect(await stock()).toEqual(
			expect.arrayContaining(['P2 S1 QS/A2 12', 'P2 S2 QS/A2 12', 'P2 MIX-1 QS/A2 1', 'P2 A QS/A2 30'])
		);
		const [{ on }] = await db.sql<{ on: string }[]>`SELECT expires_on AS on FROM mark WHERE number = 'MIX-1'`;
		expect(on).toBe('2030-01-01');
		const back = (await backAnswer(db.sql, { item: 'P2', lot: 'MIX-1', serial: null }, {}))!;
		expect(
			back.marks
				.filter((m) => m.item === 'SALT')
				.map((m) => m.lot)
				.sort()
		).toEqual(['S1', 'S2']);
		const one = (await backAnswer(db.sql, { item: 'P2', lot: 'S1', serial: null }, {}))!;
		expect(one.marks.filter((m) => m.item === 'SALT').map((m) => m.lot)).toEqual(['S1']);
		const forward = (await forwardAnswer(db.sql, { item: 'SALT', lot: 'S2', serial: null }, {}))!;
		expect(forward.where.map((w) => [w.lot, w.content]).sort()).toEqual([
			['MIX-1', '1'],
			['S2', '24']
		]);
	});

	it('is booked only when each lot adds up: what is left is packed, taken out, or lost with a reason', async () => {
		await takeIn([{ item: 'SALT', lot: 'S3', qty: '10' }]);
		const code = await repack('SALT', { P1: '9' });
		await type(code, 'SALT', { mark: await markOf('SALT', 'S3'), place: 'QS/A1', qty: '10' });
		expect(await said(code)).toEqual([
			'stop: Lot S3: 1 kg still to place. Put it into packs, take less in, or write it as lost'
		]);
		await type(code, 'SALT', { lossOf: await markOf('SALT', 'S3'), loss: '0.4' });
		expect((await said(code))[0]).toContain('0.6 kg still to place');
		const order = (await getOrder(db.sql, code))!;
		const [row] = await db.sql<
			{ id: string; version: number }[]
		>`SELECT id, version FROM draft_row WHERE order_id = ${order.id} AND data ? 'loss'`;
		await saveRows(db.sql, 'ines', order, [
			{ ...row, lineId: await lineOf(code, 'SALT'), data: { lossOf: await markOf('SALT', 'S3'), loss: '1' } }
		]);
		expect(await said(code)).toEqual(['reason: Lot S3: 1 kg lost, 10 %: say why']);
		await expect(bookNow(code)).rejects.toThrow('say why');
		await bookNow(code, 'Sack was torn');
		const trace = (await forwardAnswer(db.sql, { item: 'SALT', lot: 'S3', serial: null }, {}))!;
		expect(trace.where.map((w) => [w.state, w.content]).sort()).toEqual([
			['on hand', '9'],
			['scrapped', '1']
		]);
	});

	it('a loss of a lot that does not go in any more counts for nothing', async () => {
		await takeIn([
			{ item: 'SALT', lot: 'S7', qty: '2' },
			{ item: 'SALT', lot: 'S8', qty: '2' }
		]);
		const code = await repack('SALT', { P1: '2' });
		await type(code, 'SALT', { mark: await markOf('SALT', 'S8'), place: 'QS/A1', qty: '2' });
		await type(code, 'SALT', { lossOf: await markOf('SALT', 'S7'), loss: '1' });
		expect((await sheet(code)).repack!.lots).toMatchObject([{ number: 'S8', in: '2', lost: '0', left: '0' }]);
		expect(await said(code)).toEqual([]);
		await bookNow(code);
		await bookTest(db.sql, {
			kind: 'scrap',
			reason: 'test',
			movements: [{ item: 'SALT', lot: 'S7', qty: '2', from: 'QS/A1', to: '@scrap' }]
		});
	});

	it('asks no reason within the item’s tolerance, and one above it', async () => {
		await db.owner`UPDATE item SET loss_tolerance = 2 WHERE code = 'SALT'`;
		await takeIn([{ item: 'SALT', lot: 'S4', qty: '50' }]);
		const code = await repack('SALT', { P1: '49' });
		const mark = await markOf('SALT', 'S4');
		await type(code, 'SALT', { mark, place: 'QS/A1', qty: '50' });
		await type(code, 'SALT', { lossOf: mark, loss: '1' });
		expect(await said(code)).toEqual([]);
		await bookNow(code);
		await db.owner`UPDATE item SET loss_tolerance = 0 WHERE code = 'SALT'`;
	});

	it('writes a loss in what goes in, or in what comes out where a pack of it is no exact part; else it stops', async () => {
		await takeIn([
			{ item: 'P25', lot: 'L25', qty: '1' },
			{ item: 'P3', lot: 'L3', qty: '1' }
		]);
		const whole = await repack('P25', { P1: '24' });
		await type(whole, 'P25', { lossOf: await markOf('P25', 'L25'), loss: '1' });
		await bookNow(whole, 'Spilled');
		const third = await repack('P3', { P2: '1' });
		await type(third, 'P3', { lossOf: await markOf('P3', 'L3'), loss: '1' });
		await bookNow(third, 'Spilled');
		const lost =
			await db.sql`SELECT i.code, k.number, trim_scale(m.qty)::text AS qty FROM movement m JOIN place p ON p.id = m.to_place AND p.code = '@scrap'
			JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id WHERE k.number IN ('L25', 'L3') ORDER BY 2`;
		expect([...lost]).toEqual([
			{ code: 'P25', number: 'L25', qty: '0.04' },
			{ code: 'P2', number: 'L3', qty: '0.5' }
		]);
	});

	it('opens a pack for two runs only where its parts can be written, and never leaves a part on the shelf', async () => {
		await takeIn([
			{ item: 'P25', lot: 'O1', qty: '1' },
			{ item: 'P25', lot: 'O2', qty: '1' }
		]);
		const code = await repack('P25', { P2: '25' });
		await type(code, 'P25', { mixing: 'rest' });
		await type(code, 'P2', { lot: 'MIX-2' });
		await bookNow(code);
		expect((await stock()).filter((s) => s.startsWith('P25'))).toEqual([]);
		await takeIn([
			{ item: 'P3', lot: 'T1', qty: '1' },
			{ item: 'P3', lot: 'T2', qty: '1' }
		]);
		const thirds = await repack('P3', { P2: '3' });
		await type(thirds, 'P3', { mixing: 'rest' });
		await type(thirds, 'P2', { lot: 'MIX-3' });
		expect((await said(thirds))[0]).toContain('1 kg that mixes is no exact part of a pack of 3 kg');
		// A program that leaves part of a pack on the shelf is refused.
		const part = { item: 'P3', lot: 'T1', qty: '0.5', run: 'PART' };
		const leaves = bookTest(db.sql, {
			kind: 'repack',
			runs: [{ code: 'PART' }],
			movements: [
				{ ...part, from: 'QS/A1', to: '@process', role: 'use' },
				{ ...part, from: '@process', to: '@scrap', role: 'make' }
			]
		});
		await expect(leaves).rejects.toThrow('0.5');
	});

	it('takes what is scanned, refuses a lot on hold, and is undone as one', async () => {
		await takeIn([
			{ item: 'SALT', lot: 'S5', qty: '4' },
			{ item: 'SALT', lot: 'S6', qty: '4' }
		]);
		const before = await stock();
		const code = await repack('SALT', { P2: '2' });
		const order = (await getOrder(db.sql, code))!;
		const scanned = await takeScan(db.sql, 'ines', order, { id: randomUUID(), text: 'S6' });
		expect(scanned).toMatchObject({ taken: true, said: expect.stringContaining('Lot S6 from QS/A1') });
		const mark = await markOf('SALT', 'S6');
		const act = (what: string) => setStatus(db.sql, ines, { key: randomUUID(), act: what, mark, reason: 'Looks wet' });
		await act('hold');
		expect((await said(code))[0]).toContain('Lot S6 is on hold');
		await act('release');
		const booked = await bookNow(code);
		expect(await stock()).toContain('P2 S6 QS/A2 2');
		await undoEvent(db.sql, ines, { undo: booked.id, key: randomUUID(), reason: 'Wrong lot' });
		expect(await stock()).toEqual(before);
		expect((await getOrder(db.sql, code))!.closedAt).toBeNull();
	});

	it('refuses what cannot be repacked into each other', async () => {
		const refused = (from: string, out: Record<string, string>) => repack(from, out).catch((e) => (e as Error).message);
		expect(await refused('PLAIN', { P1: '1' })).toContain('PLAIN does not say how much it holds');
		expect(await refused('P3', { OIL: '1' })).toContain('OIL holds L, and P3 holds kg');
		expect(await refused('P3', { P3: '1' })).toContain('P3 is what goes in');
		expect(await refused('NOPE', { P1: '1' })).toContain('There is no item NOPE');
		expect(await refused('', { P1: '1' })).toContain('Choose what is repacked');
		expect(await refused('P3', { P1: '2', P2: '0' })).toContain('P2');
	});

	it('a lot is reworked: the same item goes in and comes out, under production’s rules', async () => {
		await takeIn([{ item: 'SALT', lot: 'BAD', qty: '5' }]);
		const code = await createDocument(db.sql, 'ines', {
			kind: 'production',
			place: 'QS/A2',
			from: 'SALT',
			lines: [{ item: 'SALT', qty: '5' }]
		});
		const order = (await getOrder(db.sql, code))!;
		expect(order.lines.map((l) => [l.role, l.item, l.qty])).toEqual([
			['output', 'SALT', '5'],
			['component', 'SALT', '5']
		]);
		const into = order.lines.find((l) => l.role === 'component')!.id;
		await saveRows(db.sql, 'ines', order, [
			{
				id: randomUUID(),
				lineId: order.lines.find((l) => l.role === 'output')!.id,
				data: { lot: 'GOOD', qty: '5' },
				version: 0
			},
			{
				id: randomUUID(),
				lineId: into,
				data: { mark: await markOf('SALT', 'BAD'), place: 'QS/A1', qty: '5' },
				version: 0
			}
		]);
		await bookNow(code);
		const back = (await backAnswer(db.sql, { item: 'SALT', lot: 'GOOD', serial: null }, {}))!;
		expect(back.marks.map((m) => m.lot)).toEqual(['BAD']);
		await expect(
			createDocument(db.sql, 'ines', {
				kind: 'production',
				place: 'QS/A2',
				from: 'P3',
				lines: [{ item: 'P1', qty: '5' }]
			})
		).rejects.toThrow('goes in and comes out as the same item');
	});

	it('leaves a ledger that holds', async () => {
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
