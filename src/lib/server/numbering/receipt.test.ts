import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { gs1CheckDigit } from '../../core/codes/check.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { undoScan } from '../sheet/scan.ts';
import { saveRows } from '../sheet/drafts.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import {
	cancelJob,
	jobLabels,
	listJobs,
	printLabels,
	printsOf,
	readPrinter,
	reprint,
	setPrinter
} from '../labels/jobs.ts';
import { find } from '../register/find.ts';
import { addFile, addNote, attachments, readFile } from '../register/attachments.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { savePolicy } from '../setup/policy.ts';
import { drawRows } from '../sheet/draw.ts';
import { readView } from '../../core/list/list.ts';
import { listPage } from '../list/read.ts';
import { drawnList } from './list.ts';
import { savePattern } from './patterns.ts';
import { takeScan } from '../../../../tests/db/sheets.ts';

const db = testDatabase();
/** What was drawn for an order, newest first. */
const drawnFor = async (order: string) => {
	const view = { ...readView(drawnList, new URLSearchParams({ find: order })), size: 500 };
	return (await listPage(db.sql, drawnList, view, { today: '2026-11-25', login: 'ines' })).rows;
};
const gtin = (n: number) => `09506000${n}` + gs1CheckDigit(`09506000${n}`);
const uuid = () => crypto.randomUUID() as string;
/** An order and its first line, made for a test. */
async function order(lines: { item: string; qty: string }[], kind = 'purchase' as const) {
	const code = await createDocument(db.sql, 'ines', { kind, partner: 'S', place: 'QS/DOCK', lines } as never);
	return (await getOrder(db.sql, code))!;
}
const rowsOf = async (code: string, line = 0) =>
	(await sheetState(db.sql, code)).lines[line].rows.map(({ lot, serial, count, qty, expiresOn }) => ({
		lot,
		serial,
		count,
		qty,
		expiresOn
	}));
const scan = async (code: string, text: string, lineId: string | null = null, lot: string | null = null) =>
	takeScan(db.sql, 'ines', (await getOrder(db.sql, code))!, { id: uuid(), text, lineId, lot });

beforeAll(async () => {
	await addPlace(db.sql, 'ines', { code: 'QS', name: 'Works' });
	await addPlace(db.sql, 'ines', { code: 'QS/DOCK', name: 'Dock' });
	await addPartner(db.sql, 'ines', { code: 'S', name: 'Supplier', kind: 'supplier' });
	const running = (text: string, digits: number) => [
		{ kind: 'text' as const, text },
		{ kind: 'sequence' as const, digits, reset: 'never' as const }
	];
	await savePattern(db.sql, 'ines', { code: 'SN', name: 'Serials', blocks: running('SN-', 5) });
	await savePattern(db.sql, 'ines', { code: 'SHORT', name: 'Nine', blocks: running('N', 1) });
	await savePattern(db.sql, 'ines', { code: 'LOT', name: 'Lots', blocks: running('L', 4) });
	const each = { unit: 'each', decimals: 0 };
	await createItem(db.sql, 'ines', {
		code: 'UNIT',
		name: 'Unit',
		...each,
		tracking: 'serial',
		serialPattern: 'SN',
		gtin: gtin(10_001)
	});
	await createItem(db.sql, 'ines', { code: 'NINE', name: 'Nine', ...each, tracking: 'serial', serialPattern: 'SHORT' });
	await createItem(db.sql, 'ines', {
		code: 'BOARD',
		name: 'Board',
		...each,
		tracking: 'lot and serial',
		gtin: gtin(10_002)
	});
	await createItem(db.sql, 'ines', {
		code: 'SALT',
		name: 'Salt',
		unit: 'kg',
		decimals: 3,
		tracking: 'lot',
		lotPattern: 'LOT',
		misfit: 'reason',
		gtin: gtin(10_003)
	});
	await createItem(db.sql, 'ines', { code: 'CAP', name: 'Cap', ...each, tracking: 'none', gtin: gtin(10_004) });
});

describe('drawn numbers', () => {
	it('under load no number is given twice, and each is written down', async () => {
		const orders = await Promise.all(Array.from({ length: 6 }, () => order([{ item: 'UNIT', qty: '100' }])));
		await Promise.all(
			orders.flatMap((o) =>
				Array.from({ length: 4 }, () => drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 25 }))
			)
		);
		const [{ n, distinct }] = await db.sql<{ n: number; distinct: number }[]>`
			SELECT count(*)::int AS n, count(DISTINCT number)::int AS distinct FROM drawn_number WHERE pattern_id = (SELECT id FROM number_pattern WHERE code = 'SN')`;
		expect([n, distinct]).toEqual([600, 600]);
	});
	it('what was drawn stands in the sheet, in ranges, and books in', async () => {
		const o = await order([{ item: 'UNIT', qty: '40' }]);
		await drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 40 });
		const state = await sheetState(db.sql, o.code);
		expect(state.lines[0].rows).toMatchObject([{ count: 40, findings: [] }]);
		await bookSheet(db.sql, ines, o.code, { key: uuid(), stamp: state.stamp });
		const rows = await drawnFor(o.code);
		expect(rows.map((r) => r.became)).toEqual(Array(40).fill('booked'));
	});
	it('a form that is thrown away leaves a trace: the number is not used, and not given again', async () => {
		const o = await order([{ item: 'UNIT', qty: '1' }]);
		const [id] = await drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 1 });
		const first = (await rowsOf(o.code))[0].serial;
		await db.sql`DELETE FROM draft_row WHERE id = ${id}`;
		await drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 1 });
		expect((await rowsOf(o.code))[0].serial).not.toBe(first);
		const rows = await drawnFor(first);
		expect(rows).toMatchObject([{ number: first, became: 'not used', by: 'ines' }]);
	});
	it('numbers that exist are passed over, and a sequence that runs out is said and draws nothing', async () => {
		await bookTest(db.sql, {
			kind: 'receipt',
			movements: ['N1', 'N3'].map((serial) => ({ item: 'NINE', serial, qty: 1, from: '@supplier', to: 'QS/DOCK' }))
		});
		const o = await order([{ item: 'NINE', qty: '20' }]);
		await drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 2 });
		expect((await rowsOf(o.code)).map((r) => r.serial)).toEqual(['N2', 'N4']);
		await expect(drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 9 })).rejects.toThrow('used up');
		await drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 5 });
		expect((await rowsOf(o.code)).at(-1)).toMatchObject({ serial: 'N5', count: 5 });
	});
	it('a lot is drawn with what is still open', async () => {
		const o = await order([{ item: 'SALT', qty: '50' }]);
		await saveRows(db.sql, 'ines', o, [
			{ id: uuid(), lineId: o.lines[0].id, version: 0, data: { lot: 'L9001', qty: '20' } }
		]);
		await drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 1 });
		expect(await rowsOf(o.code)).toMatchObject([{ qty: '20' }, { lot: 'L0001', qty: '30' }]);
	});
	it('what stands in the other fields goes with them', async () => {
		await addPlace(db.sql, 'ines', { code: 'QS/A1', name: 'Shelf' });
		const o = await order([{ item: 'SALT', qty: '50' }]);
		const [id] = await drawRows(db.sql, 'ines', o, {
			line: o.lines[0].id,
			count: 1,
			qty: '20',
			supplierLot: ' TL-9 ',
			place: 'QS/A1',
			expiresOn: '2199-01-31',
			facts: { CERT: 'C' }
		});
		const [{ data }] = await db.sql`SELECT data FROM draft_row WHERE id = ${id}`;
		expect(data).toMatchObject({
			qty: '20',
			supplierLot: 'TL-9',
			place: 'QS/A1',
			expiresOn: '2199-01-31',
			facts: { CERT: 'C' }
		});
	});
	it('10,000 are drawn at once', async () => {
		const o = await order([{ item: 'UNIT', qty: '10000' }]);
		await drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 10_000 });
		expect(await rowsOf(o.code)).toMatchObject([{ count: 10_000 }]);
	});
	it('a pattern that numbers were drawn from stays as it is', async () => {
		await expect(
			savePattern(
				db.sql,
				'ines',
				{ code: 'SN', name: 'x', blocks: [{ kind: 'sequence', digits: 3, reset: 'never' }] },
				'SN'
			)
		).rejects.toThrow('could not be read back');
	});
	it('a number that does not fit its pattern is stopped, or wants a reason, as the item says', async () => {
		const o = await order([
			{ item: 'UNIT', qty: '5' },
			{ item: 'SALT', qty: '5' }
		]);
		await saveRows(db.sql, 'ines', o, [
			{ id: uuid(), lineId: o.lines[0].id, version: 0, data: { serial: 'SN-123', count: 1 } },
			{ id: uuid(), lineId: o.lines[1].id, version: 0, data: { lot: 'X77', qty: '5' } }
		]);
		const { missing } = await sheetState(db.sql, o.code);
		expect(missing.map((m) => [m.line, m.level])).toEqual([
			[1, 'stop'],
			[2, 'reason'],
			[1, 'missing']
		]);
		expect(missing[0].message).toContain('6 characters; numbers of this pattern have 8, like SN-00001');
	});
});

describe('a scan on a delivery', () => {
	it('forty scans in a row make one line of the sheet', async () => {
		const o = await order([{ item: 'BOARD', qty: '40' }]);
		for (let i = 0; i < 40; i++) expect((await scan(o.code, `VB-${8000 + i}`, o.lines[0].id, 'B1')).taken).toBe(true);
		expect(await rowsOf(o.code)).toMatchObject([{ lot: 'B1', serial: 'VB-8000', count: 40 }]);
	});
	it('one code fills item, lot, serial, expiry and quantity in the right line', async () => {
		const o = await order([
			{ item: 'BOARD', qty: '1' },
			{ item: 'SALT', qty: '50' },
			{ item: 'CAP', qty: '100' }
		]);
		expect((await scan(o.code, `]d201${gtin(10_002)}10B2\x1d21VB-9000`)).said).toContain(
			'VB-9000 into line 1, Board: 1 of 1'
		);
		expect((await scan(o.code, `(01)${gtin(10_003)}(17)271231(3103)012500(10)L7001`)).said).toContain(
			'Lot L7001 into line 2'
		);
		expect((await scan(o.code, `https://id.gs1.org/01/${gtin(10_003)}/10/L7001?3103=002500`)).taken).toBe(true);
		expect((await scan(o.code, `(02)${gtin(10_004)}(37)60`)).taken).toBe(true);
		expect((await scan(o.code, `(02)${gtin(10_004)}(37)40`)).taken).toBe(true);
		expect(await rowsOf(o.code, 0)).toMatchObject([{ lot: 'B2', serial: 'VB-9000' }]);
		expect(await rowsOf(o.code, 1)).toMatchObject([{ lot: 'L7001', qty: '15', expiresOn: '2027-12-31' }]);
		expect(await rowsOf(o.code, 2)).toMatchObject([{ qty: '100' }]);
	});
	it('a lot’s own label holds for the serials to come', async () => {
		const o = await order([{ item: 'BOARD', qty: '2' }]);
		expect(await scan(o.code, `(01)${gtin(10_002)}(10)B3`)).toMatchObject({
			taken: true,
			hold: { lot: 'B3', lineId: o.lines[0].id }
		});
	});
	it.each([
		[
			'twice here',
			async (o: { code: string; lines: { id: string }[] }) => (
				await scan(o.code, 'VB-1', o.lines[0].id, 'B4'),
				scan(o.code, 'VB-1', o.lines[0].id, 'B4')
			),
			'stands here twice'
		],
		[
			'not on this delivery',
			(o: { code: string }) => scan(o.code, `(01)${gtin(10_003)}(10)L1`),
			'This is Salt, which is not on'
		],
		['an unknown item', (o: { code: string }) => scan(o.code, `(01)${gtin(10_009)}(10)L1`), 'No item has the GTIN'],
		[
			'a code read wrongly',
			(o: { code: string }) => scan(o.code, `]d201${gtin(10_002).slice(0, -1)}x`),
			'The code was not taken'
		],
		['a pallet', (o: { code: string }) => scan(o.code, '(00)376104250021234569'), 'No pallet']
	] as const)('%s: refused with a sentence, logged, and nothing is changed', async (_what, act, sentence) => {
		const o = await order([{ item: 'BOARD', qty: '2' }]);
		const result = await (act as (x: typeof o) => Promise<{ taken: boolean; said: string }>)(o);
		expect(result.taken).toBe(false);
		expect(result.said).toContain(sentence);
		const state = await sheetState(db.sql, o.code);
		expect(state.scans[0]).toMatchObject({ taken: false, canUndo: false });
		expect(state.lines[0].rows.length).toBeLessThanOrEqual(1);
	});
	it('the same scan sent twice is taken once, and undo puts its row back as it was', async () => {
		const o = await order([{ item: 'UNIT', qty: '3' }]);
		const ids = [uuid(), uuid()];
		for (const [i, id] of [ids[0], ids[1], ids[1]].entries())
			await takeScan(db.sql, 'ines', o, { id, text: i ? 'SN-70002' : 'SN-70001' });
		expect(await rowsOf(o.code)).toMatchObject([{ serial: 'SN-70001', count: 2 }]);
		await expect(undoScan(db.sql, 'ines', o, ids[0])).rejects.toThrow('changed after that scan');
		await undoScan(db.sql, 'ines', o, ids[1]);
		expect(await rowsOf(o.code)).toMatchObject([{ serial: 'SN-70001', count: 1 }]);
		await undoScan(db.sql, 'ines', o, ids[0]);
		expect(await rowsOf(o.code)).toEqual([]);
		await expect(undoScan(db.sql, 'ines', o, ids[0])).rejects.toThrow('taken back already');
	});
});

describe('numbers drawn when the order is released', () => {
	const released = async (item: string, qty: string) => {
		const o = await order([{ item, qty }]);
		return { o, state: await sheetState(db.sql, o.code), drawn: await drawnFor(o.code) };
	};
	beforeAll(async () => {
		const base = { name: 'Pre', unit: 'each', decimals: 0, drawnAt: 'release' as const };
		await createItem(db.sql, 'ines', { ...base, code: 'PRE', tracking: 'serial', serialPattern: 'SN' });
		await createItem(db.sql, 'ines', { ...base, code: 'PREL', tracking: 'lot', lotPattern: 'LOT' });
	});
	it('wait for their line: a serial for each piece, one lot for each line', async () => {
		const { o, state, drawn } = await released('PRE', '5');
		expect(drawn.map((d) => d.became)).toEqual(Array(5).fill('not used'));
		expect(state.lines[0].released).toMatchObject({ left: 5, first: drawn[4].number });
		await drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 3 });
		expect(await rowsOf(o.code)).toMatchObject([{ serial: drawn[4].number, count: 3 }]);
		// The two that are left come first, then new ones.
		await drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 3 });
		expect((await rowsOf(o.code)).at(-1)).toMatchObject({ serial: drawn[1].number });
		expect(await drawnFor(o.code)).toHaveLength(6);
		const lot = await released('PREL', '50');
		expect(lot.drawn).toMatchObject([{ kind: 'lot', became: 'not used' }]);
	});
	it('a number that was not among them is noted, or more, by policy; at a delivery too', async () => {
		const { o, drawn } = await released('PRE', '2');
		await saveRows(db.sql, 'ines', o, [
			{ id: uuid(), lineId: o.lines[0].id, version: 0, data: { serial: 'SN-99999' } },
			{ id: uuid(), lineId: o.lines[0].id, version: 0, data: { serial: drawn[1].number } }
		]);
		const found = async () =>
			(await sheetState(db.sql, o.code)).lines[0].rows.map((r) => r.findings.map((f) => `${f.level}: ${f.message}`));
		expect(await found()).toEqual([['note: Serial SN-99999 was not drawn when the order was released.'], []]);
		await savePolicy(db.sql, 'ines', { 'not released': 'stop' });
		expect(await found()).toEqual([
			['stop: Serial SN-99999 was not drawn when the order was released. Take one that was.'],
			[]
		]);
		await savePolicy(db.sql, 'ines', { 'not released': 'note' });
	});
	it('an order that cannot be made draws nothing', async () => {
		const count = async () => (await db.sql<{ n: number }[]>`SELECT count(*)::int AS n FROM drawn_number`)[0].n;
		const before = await count();
		await expect(
			createDocument(db.sql, 'ines', {
				kind: 'purchase',
				partner: 'S',
				place: 'QS/DOCK',
				lines: [
					{ item: 'PRE', qty: '3' },
					{ item: 'PRE', qty: '200000' }
				]
			})
		).rejects.toThrow('Split the order');
		expect(await count()).toBe(before);
	});
});

describe('serials that have no lot yet', () => {
	it('are scanned first, and put into a new lot in one act', async () => {
		await createItem(db.sql, 'ines', {
			code: 'GROUPED',
			name: 'Grouped',
			unit: 'each',
			decimals: 0,
			tracking: 'lot and serial',
			lotPattern: 'LOT',
			gtin: gtin(10_007)
		});
		const o = await order([{ item: 'GROUPED', qty: '4' }]);
		for (const s of ['G-1', 'G-2', 'G-9']) expect((await scan(o.code, s, o.lines[0].id)).taken).toBe(true);
		expect((await sheetState(db.sql, o.code)).missing[0]).toMatchObject({
			level: 'stop',
			message: 'GROUPED needs a lot at receipt. Scan or type it from the label.'
		});
		const ids = await drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 1, group: true });
		expect(ids).toHaveLength(2);
		const rows = await rowsOf(o.code);
		expect(rows.map((r) => r.lot)).toEqual([rows[0].lot, rows[0].lot]);
		expect(rows[0].lot).toMatch(/^L\d{4}$/);
		await expect(drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 1, group: true })).rejects.toThrow(
			'has a lot already'
		);
	});
	it('wait for a typed lot where the item has no pattern', async () => {
		const o = await order([{ item: 'BOARD', qty: '2' }]);
		await expect(drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 1, group: true })).rejects.toThrow(
			'no number pattern for its lots'
		);
	});
});

describe('the supplier’s numbers', () => {
	const gs = '\x1d';
	it('of a label beside ours: ours are drawn, theirs kept, in one scan', async () => {
		await createItem(db.sql, 'ines', {
			code: 'OURS',
			name: 'Ours',
			unit: 'each',
			decimals: 0,
			tracking: 'lot and serial',
			lotPattern: 'LOT',
			serialPattern: 'SN',
			supplierNumber: 'printed',
			gtin: gtin(10_008)
		});
		const o = await order([{ item: 'OURS', qty: '3' }]);
		const label = (lot: string, serial: string) => scan(o.code, `]d201${gtin(10_008)}10${lot}${gs}21${serial}`);
		expect((await label('26/THEIRS', 'TS-1')).said).toContain('(theirs TS-1)');
		expect((await label('26/THEIRS', 'TS-7')).taken).toBe(true);
		expect((await label('26/THEIRS', 'TS-7')).said).toContain('TS-7 is in this sheet already');
		const rows = (await sheetState(db.sql, o.code)).lines[0].rows;
		expect(rows.map((r) => r.supplierSerial)).toEqual(['TS-1', 'TS-7']);
		expect(new Set(rows.map((r) => r.lot)).size).toBe(1);
		expect(rows.every((r) => r.supplierLot === '26/THEIRS' && /^SN-\d+$/.test(r.serial))).toBe(true);
		const state = await sheetState(db.sql, o.code);
		const { id } = await bookSheet(db.sql, ines, o.code, { key: uuid(), stamp: state.stamp });
		expect((await find(db.sql, 'ts-7')).hits).toMatchObject([
			{ what: 'serial', detail: 'Ours, supplier’s serial TS-7' }
		]);
		const job = await printLabels(db.sql, 'tobi', { event: id });
		const labels = (await jobLabels(db.sql, job.id))!.labels;
		expect(labels.map((l) => l.lines.at(-1))).toContain('Supplier’s lot 26/THEIRS, serial TS-7');
	});
	it('used as ours: kept as both, so that either finds it', async () => {
		await createItem(db.sql, 'ines', {
			code: 'SAME',
			name: 'Same',
			unit: 'kg',
			decimals: 3,
			tracking: 'lot',
			supplierNumber: 'ours'
		});
		const o = await order([{ item: 'SAME', qty: '5' }]);
		await saveRows(db.sql, 'ines', o, [
			{ id: uuid(), lineId: o.lines[0].id, version: 0, data: { lot: 'TL-5', qty: '5' } }
		]);
		const state = await sheetState(db.sql, o.code);
		expect(state.lines[0].supplierNumber).toBe('ours');
		await bookSheet(db.sql, ines, o.code, { key: uuid(), stamp: state.stamp });
		expect((await db.sql`SELECT supplier_lot FROM mark WHERE number = 'TL-5'`)[0].supplier_lot).toBe('TL-5');
	});
	it('of a run count on beside ours', async () => {
		const o = await order([{ item: 'UNIT', qty: '3' }]);
		await drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 3 });
		const [row] = (await sheetState(db.sql, o.code)).lines[0].rows;
		await saveRows(db.sql, 'ines', o, [
			{
				id: row.id,
				lineId: o.lines[0].id,
				version: row.version,
				data: { serial: row.serial, count: 3, supplierSerial: 'X-08' }
			}
		]);
		await bookSheet(db.sql, ines, o.code, { key: uuid(), stamp: (await sheetState(db.sql, o.code)).stamp });
		const theirs = await db.sql`SELECT supplier_serial AS s FROM mark WHERE supplier_serial LIKE 'X-%' ORDER BY number`;
		expect(theirs.map((t) => t.s)).toEqual(['X-08', 'X-09', 'X-10']);
	});
});

describe('the label printer', () => {
	it('prints what an event brought, waits without paper, goes on with it, and counts every label', async () => {
		const o = await order([{ item: 'UNIT', qty: '6' }]);
		await drawRows(db.sql, 'ines', o, { line: o.lines[0].id, count: 6 });
		const state = await sheetState(db.sql, o.code);
		const { id: event } = await bookSheet(db.sql, ines, o.code, { key: uuid(), stamp: state.stamp });
		await setPrinter(db.sql, { paper: 4 });
		const job = await printLabels(db.sql, 'tobi', { event, symbol: 'QR code', dpi: '300' });
		expect(job).toMatchObject({ size: 6, printed: 4, title: o.code, by: 'tobi' });
		await setPrinter(db.sql, { paper: 10, online: false });
		expect((await listJobs(db.sql))[0].printed).toBe(4);
		await setPrinter(db.sql, { online: true });
		expect((await listJobs(db.sql))[0].printed).toBe(6);
		expect(await readPrinter(db.sql)).toEqual({ online: true, paper: 8 });
		const again = await reprint(db.sql, 'tobi', job.id);
		expect(again).toMatchObject({ reprintOf: job.id, printed: 6 });
		const [{ mark }] = await db.sql<
			{ mark: string }[]
		>`SELECT mark_id AS mark FROM movement WHERE event_id = ${event} LIMIT 1`;
		expect(await printsOf(db.sql, `mark ${mark}`)).toMatchObject({ count: 2 });
		await expect(cancelJob(db.sql, job.id)).rejects.toThrow('printed or cancelled already');
	});
	it('says what it cannot print', async () => {
		await expect(printLabels(db.sql, 'tobi', { place: 'QS/NONE' })).rejects.toThrow('There is no place QS/NONE');
		await expect(printLabels(db.sql, 'tobi', { marks: ['999999'] })).rejects.toThrow('nothing to print a label for');
		await expect(printLabels(db.sql, 'tobi', { place: 'QS', copies: '0' })).rejects.toThrow();
	});
});

describe('notes and files of a lot or serial', () => {
	const pdf = new TextEncoder().encode('%PDF-1.4 a certificate');
	it('are kept with who and when, and never changed', async () => {
		const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE kind = 'serial' LIMIT 1`;
		await addNote(db.sql, 'ines', id, '  scratched housing ');
		await addFile(db.sql, 'tobi', id, { name: 'Cert <1>.pdf', bytes: pdf });
		const { notes, files } = await attachments(db.sql, id);
		expect(notes).toMatchObject([{ text: 'scratched housing', by: 'ines' }]);
		expect(files).toMatchObject([{ name: 'Cert _1_.pdf', type: 'application/pdf', size: pdf.length, by: 'tobi' }]);
		expect((await readFile(db.sql, files[0].id))!.content.equals(pdf)).toBe(true);
		await expect(db.owner`UPDATE mark_note SET text = 'x'`).rejects.toThrow('never changed or deleted');
		await expect(db.owner`DELETE FROM mark_file`).rejects.toThrow('never changed or deleted');
		await expect(addFile(db.sql, 'tobi', id, { name: 'again.pdf', bytes: pdf })).rejects.toThrow('kept here already');
		await expect(
			addFile(db.sql, 'tobi', id, { name: 'a.pdf', bytes: new TextEncoder().encode('<script>') })
		).rejects.toThrow('is no PDF, PNG or JPEG');
		await expect(addNote(db.sql, 'ines', id, ' ')).rejects.toThrow('Write the note first');
	});
});
