import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { createDocument, type DocumentInput } from '../document/create.ts';
import { importOrders } from '../document/import.ts';
import { getOrder } from '../document/orders.ts';
import { undoEvent } from '../document/undo.ts';
import { correct } from '../ledger/corrections.ts';
import { setStatus } from '../ledger/changes.ts';
import { listPage } from '../list/read.ts';
import { renderList } from '../list/paper.ts';
import { headNow } from '../ledger/seal.ts';
import { words } from '../../../../tests/pdf.ts';
import { createItem } from '../setup/items.ts';
import { savePolicy } from '../setup/policy.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { openReasons } from '../document/reasons.ts';
import { addReason, setReasonClosed } from '../setup/reasons.ts';
import { saveRows } from '../sheet/drafts.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import { forwardAnswer } from '../../../../tests/traced.ts';
import { makePromise } from '../document/promises.ts';
import { adjustedList } from './adjusted.ts';
import { takeScan } from '../../../../tests/db/sheets.ts';

const db = testDatabase();
const make = async (input: Omit<DocumentInput, 'lines'> & { lines: { item: string; qty: string }[] }) =>
	(await getOrder(db.sql, await createDocument(db.sql, 'ines', input)))!;
const out = (lines: { item: string; qty: string }[], reason = 'Damaged') =>
	make({ kind: 'adjust-out', place: 'QS', reason, lines });
const found = (lines: { item: string; qty: string }[], place = 'QS/A1') =>
	make({ kind: 'adjust-in', place, reason: 'Found', lines });
const scan = async (code: string, text: string) =>
	takeScan(db.sql, 'ines', (await getOrder(db.sql, code))!, { id: randomUUID(), text });
const bookNow = async (code: string, reason?: string, who: Actor = ines) =>
	bookSheet(db.sql, who, code, { key: randomUUID(), stamp: (await sheetState(db.sql, code)).stamp, reason });
const type = async (code: string, data: Record<string, unknown>, line = 0) => {
	const order = (await getOrder(db.sql, code))!;
	await saveRows(db.sql, 'ines', order, [{ id: randomUUID(), lineId: order.lines[line].id, data, version: 0 }]);
};
const picks = async (code: string) =>
	(await sheetState(db.sql, code)).lines.flatMap((l) =>
		l.cells.flatMap((c) => c.picks.map((p) => [p.number, p.place, p.qty, !!p.id]))
	);
const lies = async (number: string) =>
	(
		await db.sql<{ code: string; qty: string }[]>`
			SELECT p.code, trim_scale(b.qty)::text AS qty FROM balance b JOIN mark k ON k.id = b.mark_id JOIN place p ON p.id = b.place_id
			WHERE k.number = ${number} AND b.qty <> 0 AND p.code <> '@supplier' ORDER BY p.code`
	).map((b) => [b.code, b.qty]);
const said = async (code: string) => (await sheetState(db.sql, code)).missing.map((m) => `${m.level}: ${m.message}`);
const markId = async (number: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`)[0].id;

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/A2', 'ND', 'ND/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'SKEN', name: 'Sken Instruments', kind: 'customer' });
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
	await createItem(db.sql, 'ines', { code: 'CAP', name: 'Cap', unit: 'each', tracking: 'none' });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			{ item: 'GEL', lot: 'G-1', qty: '6', from: '@supplier', to: 'QS/A1' },
			{ item: 'GEL', lot: 'G-2', qty: '20', from: '@supplier', to: 'QS/A2' },
			{ item: 'CAP', qty: '100', from: '@supplier', to: 'QS/A1' },
			...['C-1', 'C-2', 'C-3', 'C-4', 'C-5'].map((serial) => ({
				...{ item: 'CELL', serial, qty: '1', from: '@supplier', to: 'QS/A1' }
			}))
		]
	});
	await bookTest(db.sql, {
		kind: 'shipment',
		partner: 'SKEN',
		at: '2026-03-02T08:00:00Z',
		movements: [{ item: 'CELL', serial: 'C-5', qty: '1', from: 'QS/A1', to: '@customer' }]
	});
});

describe('the firm’s list of reasons', () => {
	it('offers those that fit, takes new ones, and closes what is not wanted', async () => {
		expect((await openReasons(db.sql, ['put in'])).map((r) => r.name)).toEqual(['Found', 'Was there before Earmark']);
		await addReason(db.sql, 'ines', { name: 'Frost', act: 'scrap' });
		await expect(addReason(db.sql, 'ines', { name: 'Frost', act: 'take out' })).rejects.toThrow(
			'“Frost” is there already, as a reason to scrap. Take other words.'
		);
		await expect(addReason(db.sql, 'ines', { name: '  ', act: 'scrap' })).rejects.toThrow('Type the reason.');
		await expect(addReason(db.sql, 'ines', { name: 'Odd', act: 'sell' })).rejects.toThrow('Choose what it is');
		await setReasonClosed(db.sql, 'ines', 'Frost', true);
		expect((await openReasons(db.sql, ['scrap'])).map((r) => r.name)).not.toContain('Frost');
		await expect(out([{ item: 'GEL', qty: '1' }], 'Frost')).rejects.toThrow('There is no open reason “Frost”');
		await setReasonClosed(db.sql, 'ines', 'Frost', false);
		await expect(setReasonClosed(db.sql, 'ines', 'Thaw', true)).rejects.toThrow('There is no reason “Thaw”');
	});
	it('is asked for by an adjustment, by nothing else, and fits what it does', async () => {
		const lines = [{ item: 'GEL', qty: '1' }];
		await expect(make({ kind: 'adjust-out', place: 'QS', lines })).rejects.toThrow('Choose the reason.');
		await expect(out(lines, 'Found')).rejects.toThrow('“Found” is a reason to put in. Choose one that fits');
		await expect(make({ kind: 'adjust-in', place: 'QS/A1', reason: 'Damaged', lines })).rejects.toThrow('to scrap');
		await expect(make({ kind: 'sale', partner: 'SKEN', reason: 'Found', lines })).rejects.toThrow(
			'Only adjustments and returns have a reason of the list.'
		);
		await expect(make({ kind: 'adjust-in', reason: 'Found', lines })).rejects.toThrow('where it was found');
	});
	it('comes from a file of orders as well', async () => {
		const csv =
			'order,kind,place,reason,item,qty\nAO-9,adjust-out,QS,Missing,CAP,2\nAO-9,adjust-out,QS,Damaged,GEL,1\n';
		expect((await importOrders(db.sql, ines, csv, true)).faults).toMatchObject([
			{ message: 'Order AO-9 has another reason here than in row 2. Make them the same.', at: 'row 3' }
		]);
		const right = csv.replace('Damaged', 'Missing');
		// Whoever may write orders may not for that make adjustments.
		const tobi = { name: 'tobi', role: 'receiving and shipping' } as const;
		expect((await importOrders(db.sql, tobi, right, true)).faults).toMatchObject([
			{ message: expect.stringContaining('Your role (receiving and shipping) makes no adjustment out.') }
		]);
		await importOrders(db.sql, ines, right, false);
		expect((await getOrder(db.sql, 'AO-9'))!.reason).toEqual({ name: 'Missing', act: 'take out' });
	});
});

describe('an adjustment out', () => {
	it('suggests no number: a person names it; what carries none is taken without', async () => {
		const { code } = await out([
			{ item: 'GEL', qty: '1.5' },
			{ item: 'CAP', qty: '4' }
		]);
		expect(await said(code)).toEqual(['missing: 1.5 kg not named yet: scan it, or choose from what is there']);
		expect(await picks(code)).toEqual([['CAP', 'QS/A1', '4', false]]);
		expect(await scan(code, 'G-2')).toMatchObject({ taken: true });
		expect(await picks(code)).toEqual([
			['G-2', 'QS/A2', '1.5', true],
			['CAP', 'QS/A1', '4', false]
		]);
		await bookNow(code);
		expect(await lies('G-2')).toEqual([
			['@scrap', '1.5'],
			['QS/A2', '18.5']
		]);
		const [event] = await db.sql`SELECT kind, reason, document FROM event ORDER BY id DESC LIMIT 1`;
		expect(event).toEqual({ kind: 'scrap', reason: 'Damaged', document: code });
		expect((await getOrder(db.sql, code))!.closedAt).not.toBeNull();
		const trace = (await forwardAnswer(db.sql, { item: 'GEL', lot: 'G-2', serial: null }, {}))!;
		expect(trace.where).toContainEqual(expect.objectContaining({ state: 'scrapped', content: '3/2' }));
	});
	it('what is missing goes to @adjust, what is broken to @scrap; held stock may be either', async () => {
		await setStatus(db.sql, ines, { key: 'hold G-1', act: 'hold', mark: await markId('G-1'), reason: 'Turbid' });
		const { code } = await out([{ item: 'GEL', qty: '2' }], 'Missing');
		expect(await scan(code, 'G-1')).toMatchObject({ taken: true });
		expect((await said(code)).filter((m) => m.startsWith('stop'))).toEqual([]);
		await bookNow(code, 'counted twice');
		expect(await lies('G-1')).toEqual([
			['@adjust', '2'],
			['QS/A1', '4']
		]);
		expect(await db.sql`SELECT kind, reason FROM event ORDER BY id DESC LIMIT 1`).toEqual([
			{ kind: 'adjust', reason: 'Missing: counted twice' }
		]);
	});
	it('never more than there is, and never what has gone', async () => {
		const { code } = await out([
			{ item: 'GEL', qty: '50' },
			{ item: 'CELL', qty: '1' }
		]);
		expect(await scan(code, 'C-5')).toMatchObject({
			taken: false,
			said: expect.stringContaining('C-5 is nowhere on hand')
		});
		await type(code, { mark: await markId('G-2'), place: 'QS/A2', qty: '50' });
		expect((await said(code)).join()).toMatch(/stop: .*18.5/);
		await expect(bookNow(code)).rejects.toThrow('18.5');
		expect(await lies('G-2')).toContainEqual(['QS/A2', '18.5']);
	});
	it('what is promised to an order is taken only with a reason, and the order sees it', async () => {
		const order = await make({ kind: 'sale', partner: 'SKEN', place: 'QS', lines: [{ item: 'CELL', qty: '1' }] });
		await makePromise(db.sql, ines, {
			...{ key: randomUUID(), order: order.code, line: 1, item: 'CELL', serial: 'C-2', qty: '1' }
		});
		const { code } = await out([{ item: 'CELL', qty: '1' }]);
		expect(await scan(code, 'C-2')).toMatchObject({ taken: true });
		expect((await said(code)).join()).toContain(`reason: Serial C-2 is promised to ${order.code}`);
		await expect(bookNow(code)).rejects.toThrow(order.code);
		await bookNow(code, 'Dropped');
		const [{ promises }] = (await sheetState(db.sql, order.code)).lines;
		expect(promises).toMatchObject([
			{ number: 'C-2', rest: '0', takenBy: expect.stringContaining('Damaged: Dropped') }
		]);
	});
	it('is undone like any booking', async () => {
		const { code } = await out([{ item: 'CELL', qty: '1' }], 'Missing');
		await scan(code, 'C-4');
		const { id } = await bookNow(code);
		expect(await lies('C-4')).toEqual([['@adjust', '1']]);
		await undoEvent(db.sql, ines, { key: randomUUID(), undo: id, reason: 'Lay behind the shelf' });
		expect(await lies('C-4')).toEqual([['QS/A1', '1']]);
		expect((await getOrder(db.sql, code))!.closedAt).toBeNull();
	});
	it('only a coordinator may', async () => {
		const { code } = await out([{ item: 'CAP', qty: '1' }]);
		for (const role of ['receiving and shipping', 'assembly', 'quality', 'auditor', 'administrator'] as const)
			await expect(bookNow(code, undefined, { name: 'x', role, source: 'screen' })).rejects.toThrow(
				'Only a coordinator can adjust stock.'
			);
	});
});

describe('an adjustment in', () => {
	it('asks the numbers by the rule, takes known lots and new ones, each to its bin', async () => {
		const { code } = await found([{ item: 'GEL', qty: '3' }]);
		expect((await sheetState(db.sql, code)).ready).toBe(false);
		await type(code, { lot: 'G-2', qty: '1' });
		expect(await said(code)).toEqual([expect.stringContaining('missing: 2 kg still to enter')]);
		await type(code, { lot: 'G-NEW', qty: '2', place: 'QS/A2' });
		await bookNow(code);
		expect(await lies('G-2')).toContainEqual(['QS/A1', '1']);
		expect(await lies('G-NEW')).toEqual([
			['@adjust', '-2'],
			['QS/A2', '2']
		]);
	});
	it('a serial that is here, or with a customer, is not put in: it says where it is', async () => {
		const { code } = await found([{ item: 'CELL', qty: '1' }]);
		await type(code, { serial: 'C-1', count: 1 });
		expect((await said(code)).join()).toMatch(/stop: .*C-1.*QS\/A1/);
		const second = await found([{ item: 'CELL', qty: '1' }]);
		await type(second.code, { serial: 'C-5', count: 1 });
		expect((await said(second.code)).join()).toMatch(/stop: .*C-5.*Sken Instruments/);
		await expect(bookNow(second.code)).rejects.toThrow('Sken Instruments');
		expect(await lies('C-5')).toEqual([['@customer', '1']]);
	});
	it('what was taken out as missing and is found is put in again, and is the same number', async () => {
		const gone = await out([{ item: 'CELL', qty: '1' }], 'Missing');
		await scan(gone.code, 'C-3');
		await bookNow(gone.code);
		const back = await found([{ item: 'CELL', qty: '1' }], 'QS/A2');
		await type(back.code, { serial: 'C-3', count: 1 });
		await bookNow(back.code);
		expect(await lies('C-3')).toEqual([['QS/A2', '1']]);
		expect(await db.sql`SELECT 1 FROM mark WHERE number = 'C-3'`).toHaveLength(1);
	});
	it('more than was found wants a reason', async () => {
		const { code } = await found([{ item: 'CAP', qty: '2' }]);
		await type(code, { qty: '3' });
		expect((await said(code)).join()).toContain('1 more than was found');
	});
});

describe('the auditor’s list', () => {
	const list = async (filters: Record<string, { is: string }> = {}) =>
		(
			await listPage(
				db.sql,
				adjustedList,
				{ find: '', size: 100, sort: adjustedList.sort, filters, after: null, before: null },
				{ today: '2026-03-03', login: 'ines' }
			)
		).rows;
	it('has every adjustment with what lay there before and after, and every correction with its values', async () => {
		await correct(db.sql, ines, {
			...{ key: randomUUID(), mark: await markId('G-2'), field: 'expiresOn', value: '2027-05-31', reason: 'Misread' }
		});
		const rows = await list();
		const of = (number: string, act: string) =>
			rows.filter((r) => r.number === number && r.act === act).map((r) => [r.change, r.before, r.after, r.reason]);
		expect(of('G-1', 'taken out')).toEqual([['-2', '6', '4', 'Missing: counted twice']]);
		expect(of('G-2', 'scrapped')).toEqual([['-1.5', '20', '18.5', 'Damaged']]);
		expect(of('G-2', 'put in')).toEqual([['1', '0', '1', 'Found']]);
		expect(of('G-2', 'corrected')).toEqual([[null, null, '2027-05-31', 'Misread']]);
		expect(rows.find((r) => r.number === 'C-4')).toMatchObject({
			act: 'taken out',
			undone: 'yes',
			before: '1',
			after: '0'
		});
		// Receipts and shipments are none of it.
		expect(rows.every((r) => r.number !== 'C-5')).toBe(true);
	});
	it('goes on paper as it is shown, with what was asked, by whom, and the head of the ledger', async () => {
		const narrowed = { reason: { is: 'Found' } };
		const rows = await list(narrowed);
		const text = await words(
			await renderList({
				...{ shape: { ...adjustedList }, chosen: null, find: '', filters: narrowed, rows },
				...{ by: 'Ines Falk', at: '2026-03-03 09:00', head: await headNow(db.sql) }
			})
		);
		expect(text).toMatch(
			/^Adjustments, counts and corrections Shows Rows Printed Reason: Found 3 3 Mar 2026,? 09:00 by Ines Falk/
		);
		for (const r of rows) expect(text).toContain(r.number ?? r.item);
		expect(text).toContain('Head of the ledger when this was printed');
	});
	it('is narrowed by what, item and reason', async () => {
		expect((await list({ act: { is: 'scrapped' } })).map((r) => r.number ?? r.item).sort()).toEqual([
			'C-2',
			'Cap',
			'G-2'
		]);
		expect((await list({ item: { is: 'CELL' } })).every((r) => r.item === 'Cell')).toBe(true);
		expect((await list({ reason: { is: 'Found' } })).map((r) => r.number).sort()).toEqual(['C-3', 'G-2', 'G-NEW']);
	});
});

describe('what is put in', () => {
	it('under a lot that nobody knows is asked about, and its neighbours are named', async () => {
		const order = await found([{ item: 'GEL', qty: '1' }]);
		await type(order.code, { lot: 'G-12', qty: '1', cost: '1' });
		const says = 'Lot G-12 is not known, and G-1 is. Correct it, or say why a new lot was found.';
		expect((await said(order.code)).filter((m) => m.startsWith('reason'))).toEqual([`reason: ${says}`]);
		const row = (await sheetState(db.sql, order.code)).lines[0].rows[0];
		expect(row.findings.map((f) => f.message)).toContain(says);
		await savePolicy(db.sql, 'ines', { 'unknown found': 'stop' });
		await expect(bookNow(order.code, 'it is so')).rejects.toThrow('is not known');
		await savePolicy(db.sql, 'ines', { 'unknown found': 'reason' });
		await bookNow(order.code, 'never received');
		expect(await lies('G-12')).toContainEqual(['QS/A1', '1']);
		// One that is written like no other is new, and that is all.
		const other = await found([{ item: 'GEL', qty: '1' }]);
		await type(other.code, { lot: 'QUITE-ANOTHER', qty: '1', cost: '1' });
		expect((await said(other.code)).filter((m) => m.startsWith('reason'))).toEqual([]);
	});
	it('is asked the date and the facts that a delivery needs', async () => {
		await createItem(db.sql, 'ines', {
			...{ code: 'DATED', name: 'Dated', unit: 'kg', decimals: 3, tracking: 'lot', expiry: 'required' }
		});
		const order = await found([{ item: 'DATED', qty: '1' }]);
		expect((await sheetState(db.sql, order.code)).lines[0].expiry).toBe('required');
		await type(order.code, { lot: 'D-NEW', qty: '1', cost: '1' });
		await expect(bookNow(order.code)).rejects.toThrow(/expiry date/);
		await expect(
			bookTest(db.sql, {
				...{ kind: 'adjust', reason: 'Found' },
				movements: [{ item: 'DATED', lot: 'D-NEW', qty: '1', from: '@adjust', to: 'QS/A1' }]
			})
		).rejects.toThrow(/expiry date/);
	});
	it('of a series notes the number that is written otherwise', async () => {
		const order = await make({ kind: 'purchase', place: 'QS', partner: 'S1', lines: [{ item: 'CELL', qty: '5' }] });
		for (const serial of ['VB-7751', 'VB-7752', 'VB-7753', 'VB-10754', 'VB7755'])
			await type(order.code, { serial, count: 1 });
		const { rows } = (await sheetState(db.sql, order.code)).lines[0];
		expect(
			rows.map((r) => r.findings.filter((f) => f.code === 'leaves form').map((f) => [f.level, f.message]))
		).toEqual([
			...[[], [], [], []],
			[['note', 'Serial VB7755 is written otherwise than the others, as VB-7751. Look at the label again.']]
		]);
	});
});

it('the whole ledger holds', async () => {
	expect(await findingsOf(db.sql)).toEqual([]);
});

describe('what one costs of what is put in', () => {
	const rowsOf = async (code: string) =>
		(await sheetState(db.sql, code)).lines.flatMap((l) =>
			l.rows.map((r) => [r.lot || r.serial, r.costProposed?.cost ?? null, r.costProposed?.ground ?? null])
		);
	const booked = async (number: string) =>
		(
			await db.sql<{ cost: string | null }[]>`
				SELECT trim_scale(m.unit_cost)::text AS cost FROM movement m JOIN mark k ON k.id = m.mark_id WHERE k.number = ${number} ORDER BY m.id DESC LIMIT 1`
		)[0].cost;
	it('is proposed from its own, then its lot’s, then its item’s last, and says which; what is typed counts', async () => {
		await createItem(db.sql, 'ines', { code: 'BOARD', name: 'Board', unit: 'each', tracking: 'lot and serial' });
		const board = (lot: string, serial: string, unitCost: string | null, at: string) =>
			bookTest(db.sql, {
				...{ kind: 'receipt', partner: 'S1', document: `PO-${serial}`, at },
				movements: [{ item: 'BOARD', lot, serial, qty: '1', from: '@supplier', to: 'QS/A1', unitCost }]
			});
		const first = await found([{ item: 'BOARD', qty: '1' }]);
		await type(first.code, { lot: 'B-L0', serial: 'B-0', count: 1 });
		// Nothing is noted of any: the cost is still to come.
		expect(await rowsOf(first.code)).toEqual([['B-L0', null, null]]);
		await bookNow(first.code);
		expect(await booked('B-0')).toBeNull();

		await board('B-L1', 'B-1', '12.5', '2026-03-01T09:00:00Z');
		await board('B-L1', 'B-2', null, '2026-03-01T10:00:00Z');
		await board('B-L2', 'B-3', '14', '2026-03-01T11:00:00Z');
		for (const serial of ['B-1', 'B-2'])
			await bookTest(db.sql, {
				...{ kind: 'adjust', reason: 'Missing', at: '2026-03-02T09:00:00Z' },
				movements: [{ item: 'BOARD', serial, qty: '1', from: 'QS/A1', to: '@adjust' }]
			});
		const back = await found([{ item: 'BOARD', qty: '4' }]);
		await type(back.code, { lot: 'B-L1', serial: 'B-1', count: 1 });
		await type(back.code, { lot: 'B-L1', serial: 'B-2', count: 1 });
		await type(back.code, { lot: 'B-L9', serial: 'B-9', count: 1 });
		await type(back.code, { lot: 'B-L9', serial: 'B-10', count: 1, cost: '9.000001' });
		expect((await rowsOf(back.code)).map(([, cost, ground]) => `${cost}: ${ground}`)).toEqual([
			'12.5: its own, PO-B-1, 1 Mar 2026',
			'12.5: of its lot, PO-B-1, 1 Mar 2026',
			'14: the item’s last, PO-B-3, 1 Mar 2026',
			'14: the item’s last, PO-B-3, 1 Mar 2026'
		]);
		await bookNow(back.code);
		expect(await Promise.all(['B-1', 'B-2', 'B-9', 'B-10'].map(booked))).toEqual(['12.5', '12.5', '14', '9.000001']);
		expect(await findingsOf(db.sql)).toEqual([]);
	});
	it('that cannot be read stops, and says how to type it', async () => {
		const order = await found([{ item: 'GEL', qty: '1' }]);
		await type(order.code, { lot: 'G-COST', qty: '1', cost: 'ten' });
		expect(await said(order.code)).toEqual([
			'stop: The cost of one cannot be read: ten. Type it as 12.50, with at most six decimals.'
		]);
		await expect(bookNow(order.code)).rejects.toThrow('cannot be read');
	});
	it('of what was undone is not proposed', async () => {
		await bookTest(db.sql, {
			...{ key: 'dear', kind: 'receipt', partner: 'S1', at: '2026-03-03T09:00:00Z' },
			movements: [{ item: 'CAP', qty: '5', from: '@supplier', to: 'QS/A1', unitCost: '99' }]
		});
		const order = await found([{ item: 'CAP', qty: '5' }]);
		await type(order.code, { qty: '5' });
		expect((await rowsOf(order.code))[0][1]).toBe('99');
		await bookTest(db.sql, { kind: 'undo', at: '2026-03-03T10:00:00Z', undoes: 'dear', reason: 'Wrong price' });
		expect((await rowsOf(order.code))[0][1]).toBeNull();
	});
});
