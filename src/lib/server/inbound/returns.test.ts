import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { Problem } from '../../core/problem/problem.ts';
import { readView } from '../../core/list/list.ts';
import { createDocument, type DocumentInput } from '../document/create.ts';
import { enterFirst, firstOf } from '../document/first.ts';
import { documentList } from '../document/list.ts';
import { getOrder } from '../document/orders.ts';
import { setTodo } from '../document/todo.ts';
import { undoEvent } from '../document/undo.ts';
import { correct } from '../ledger/corrections.ts';
import { listPage } from '../list/read.ts';
import { lifeOf } from '../register/life.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { removeRows, saveRows } from '../sheet/drafts.ts';
import { undoScan } from '../sheet/scan.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import { takeScan } from '../../../../tests/db/sheets.ts';

const db = testDatabase();
const tobi = { ...ines, name: 'tobi', role: 'receiving and shipping' };
const make = async (more: Partial<DocumentInput> = {}) =>
	createDocument(db.sql, 'tobi', {
		...{ kind: 'return', partner: 'SKEN', place: 'QS/DOCK', reason: 'Faulty', lines: [] },
		...more
	});
const scan = async (code: string, text: string) => {
	const id = randomUUID();
	return { id, ...(await takeScan(db.sql, 'tobi', (await getOrder(db.sql, code))!, { id, text })) };
};
const rows = async (code: string) =>
	(await sheetState(db.sql, code)).lines.flatMap((l) =>
		l.cells.flatMap((c) => c.picks.map((p) => ({ ...p, line: l.id })))
	);
/** Says what becomes of a number, and more of it. */
const look = async (code: string, number: string, data: Record<string, unknown>) => {
	const row = (await rows(code)).find((r) => r.number === number)!;
	await saveRows(db.sql, 'tobi', (await getOrder(db.sql, code))!, [
		{
			...{ id: row.id, lineId: row.line, version: row.version },
			data: { mark: row.mark, place: row.place, qty: row.qty, ...data }
		}
	]);
};
const bookNow = async (code: string, reason?: string) =>
	bookSheet(db.sql, tobi, code, { key: randomUUID(), stamp: (await sheetState(db.sql, code)).stamp, reason });
const said = async (code: string) => (await sheetState(db.sql, code)).missing.map((m) => `${m.level}: ${m.message}`);
const lies = async (number: string) =>
	(
		await db.sql<{ code: string; qty: string }[]>`
			SELECT p.code, trim_scale(b.qty)::text AS qty FROM balance b JOIN mark k ON k.id = b.mark_id JOIN place p ON p.id = b.place_id
			WHERE k.number = ${number} AND b.qty > 0 ORDER BY p.code`
	).map((b) => `${b.code} ${b.qty}`);
const status = async (number: string) =>
	(await db.sql<{ status: string }[]>`SELECT status FROM mark WHERE number = ${number}`)[0].status;
const markId = async (number: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`)[0].id;
const url = (query: string) => new URL(`http://x/inbound/returns/new?${query}`);

beforeAll(async () => {
	for (const code of ['QS', 'QS/DOCK', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	for (const [code, name, kind] of [
		['SKEN', 'Sken Fisheries', 'customer'],
		['LINDOW', 'Upper Lindow', 'customer'],
		['OST', 'Ostrel', 'supplier']
	] as const)
		await addPartner(db.sql, 'ines', { code, name, kind });
	await createItem(db.sql, 'ines', { code: 'WM', name: 'Meter', unit: 'each', tracking: 'serial' });
	await createItem(db.sql, 'ines', { code: 'BUF', name: 'Buffer', unit: 'each', tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CAP', name: 'Cap', unit: 'each', tracking: 'none' });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'OST',
		movements: [
			...['W-1', 'W-2', 'W-3', 'W-4', 'W-5', 'W-6', 'W-7', 'W-8'].map((serial) => ({
				...{ item: 'WM', serial, qty: '1', from: '@supplier', to: 'QS/A1' }
			})),
			{ item: 'BUF', lot: 'B-1', qty: '100', from: '@supplier', to: 'QS/A1' },
			{ item: 'BUF', lot: 'B-2', qty: '10', from: '@supplier', to: 'QS/A1' },
			{ item: 'CAP', qty: '50', from: '@supplier', to: 'QS/A1' }
		]
	});
	await bookTest(db.sql, {
		...{ key: 'ship-sken', kind: 'shipment', partner: 'SKEN', at: '2026-03-02T08:00:00Z' },
		movements: [
			...['W-1', 'W-2', 'W-3', 'W-5', 'W-6'].map((serial) => ({
				...{ item: 'WM', serial, qty: '1', from: 'QS/A1', to: '@customer' }
			})),
			{ item: 'BUF', lot: 'B-1', qty: '30', from: 'QS/A1', to: '@customer' },
			{ item: 'BUF', lot: 'B-2', qty: '10', from: 'QS/A1', to: '@customer' },
			{ item: 'CAP', qty: '5', from: 'QS/A1', to: '@customer' }
		]
	});
	await bookTest(db.sql, {
		...{ kind: 'shipment', partner: 'LINDOW', at: '2026-03-02T09:00:00Z' },
		movements: [{ item: 'WM', serial: 'W-4', qty: '1', from: 'QS/A1', to: '@customer' }]
	});
});

describe('a return from a customer', () => {
	it('lines come by themselves as numbers are scanned; each is looked over, and goes its way in one event', async () => {
		const code = await make();
		expect((await sheetState(db.sql, code)).lines).toEqual([]);
		expect(await scan(code, 'W-1')).toMatchObject({ taken: true });
		expect(await scan(code, 'W-2')).toMatchObject({ taken: true });
		expect(await scan(code, 'B-1')).toMatchObject({ taken: true });
		// Each piece of a lot is a scan.
		expect(await scan(code, 'B-1')).toMatchObject({ taken: true, said: expect.stringContaining('1 more of B-1') });
		const { lines } = await sheetState(db.sql, code);
		expect(lines.map((l) => [l.item, l.qty, l.open, l.entered])).toEqual([
			['WM', '2', '2', '2'],
			['BUF', '2', '2', '2']
		]);
		expect(await said(code)).toEqual([
			'stop: Serials W-1 … W-2: say what becomes of them: into stock, on hold or scrapped.',
			'stop: Lot B-1: say what becomes of it: into stock, on hold or scrapped.'
		]);
		await expect(bookNow(code)).rejects.toThrow('say what becomes of it');
		await look(code, 'W-1', { goes: 'hold', found: 'Reads 0.3 too high', to: 'QS/A1' });
		await look(code, 'W-2', { goes: 'scrap', found: 'Housing cracked' });
		await look(code, 'B-1', { goes: 'stock' });
		expect(await said(code)).toEqual([]);
		await bookNow(code);
		expect(await lies('W-1')).toEqual(['QS/A1 1']);
		expect(await status('W-1')).toBe('held');
		expect(await lies('W-2')).toEqual(['@scrap 1']);
		expect(await lies('B-1')).toEqual(['@customer 28', 'QS/A1 70', 'QS/DOCK 2']);
		expect(await status('B-1')).toBe('released');
		const order = (await getOrder(db.sql, code))!;
		expect(order.closedAt).not.toBeNull();
		expect(order.lines.map((l) => [l.qty, l.done])).toEqual([
			['2', '2'],
			['2', '2']
		]);
		const [held] = await db.sql<
			{ reason: string }[]
		>`SELECT reason FROM event WHERE kind = 'hold' ORDER BY id DESC LIMIT 1`;
		expect(held.reason).toBe(`Came back from Sken Fisheries on ${code}: Faulty: Reads 0.3 too high`);
		// Why it came back, and what was found, stands in its life.
		const { life } = await lifeOf(db.sql, await markId('W-2'), [], 'UTC');
		expect(life.find((e) => e.kind === 'return')?.reason).toBe('Faulty: Housing cracked, scrapped');
	});

	it('what is scanned by mistake is taken back, and its line goes with it', async () => {
		const code = await make();
		await scan(code, 'W-3');
		const wrong = await scan(code, 'B-2');
		await undoScan(db.sql, 'tobi', (await getOrder(db.sql, code))!, wrong.id);
		expect((await sheetState(db.sql, code)).lines.map((l) => l.item)).toEqual(['WM']);
		await look(code, 'W-3', { goes: 'stock' });
		await bookNow(code);
		expect((await getOrder(db.sql, code))!.lines.map((l) => l.item)).toEqual(['WM']);
		expect((await getOrder(db.sql, code))!.closedAt).not.toBeNull();
	});

	it('one that is here, that nobody knows, or that was built in is refused with where it is', async () => {
		const code = await make();
		expect(await scan(code, 'W-7')).toMatchObject({ taken: false, said: expect.stringContaining('QS/A1') });
		expect(await scan(code, 'W-11')).toEqual({
			id: expect.any(String),
			taken: false,
			said: 'No lot or serial is called W-11. Was it W-1? Check the label; it may be another firm’s.'
		});
		expect((await getOrder(db.sql, code))!.lines).toEqual([]);
		// Twice in one sheet.
		await scan(code, 'W-5');
		expect(await scan(code, 'W-5')).toMatchObject({
			taken: false,
			said: expect.stringContaining('in this sheet already')
		});
	});

	it('what was never shipped to them asks why, and says who has it', async () => {
		const code = await make();
		await scan(code, 'W-4');
		await look(code, 'W-4', { goes: 'stock' });
		expect(await said(code)).toEqual([
			'reason: By the ledger Sken Fisheries has nothing of Serial W-4. It went to Upper Lindow. Check the number, or say why it comes from them.'
		]);
		await expect(bookNow(code)).rejects.toThrow('Sken Fisheries has nothing');
		await bookNow(code, 'Upper Lindow sold it on');
		expect(await lies('W-4')).toEqual(['QS/DOCK 1']);
		// A second time it is here.
		const again = await make({ partner: 'LINDOW' });
		expect(await scan(again, 'W-4')).toMatchObject({ taken: false, said: expect.stringContaining('QS/DOCK') });
	});

	it('more of a lot than they have asks why, for a program as well', async () => {
		const back = (qty: string, reason?: string) =>
			bookTest(db.sql, {
				...{ kind: 'return', partner: 'SKEN', at: '2026-03-05T08:00:00Z', reason },
				movements: [{ item: 'BUF', lot: 'B-1', qty, from: '@customer', to: 'QS/DOCK' }]
			});
		const problem = (await back('29').catch((e: unknown) => e)) as Problem;
		expect(problem.faults).toEqual([
			expect.objectContaining({
				code: 'not with them',
				message:
					'By the ledger Sken Fisheries has 28 of Lot B-1, and 29 come back. Check the number, or say why it comes from them.'
			})
		]);
		await back('28');
		await back('1', 'A carton from another delivery');
	});

	it('a return takes nothing from the stock besides', async () => {
		await expect(
			bookTest(db.sql, {
				...{ kind: 'return', partner: 'SKEN', at: '2026-03-06T08:00:00Z' },
				movements: [
					{ item: 'CAP', qty: '1', from: '@customer', to: 'QS/DOCK' },
					{ item: 'CAP', qty: '2', from: 'QS/A1', to: '@scrap' }
				]
			})
		).rejects.toThrow('CAP without a number is taken from QS/A1 by a return, and did not come back with it');
	});

	it('a lot that goes on hold is held wherever it lies: that asks why', async () => {
		const code = await make();
		await bookTest(db.sql, {
			...{ kind: 'shipment', partner: 'SKEN', at: '2026-03-07T08:00:00Z' },
			movements: [{ item: 'BUF', lot: 'B-1', qty: '2', from: 'QS/A1', to: '@customer' }]
		});
		await scan(code, 'B-1');
		await look(code, 'B-1', { goes: 'hold' });
		const [asks] = await said(code);
		expect(asks).toMatch(
			/^reason: Lot B-1: a lot is one thing wherever it lies, so all \d+ of it on hand go on hold too/
		);
		await removeRows(
			db.sql,
			(await getOrder(db.sql, code))!,
			(await rows(code)).map((r) => r.id)
		);
		expect((await sheetState(db.sql, code)).lines).toEqual([]);
	});

	it('a label with an earlier number still finds it', async () => {
		const id = await markId('W-6');
		await correct(db.sql, ines, { key: randomUUID(), mark: id, field: 'number', value: 'W-66', reason: 'Engraved so' });
		const code = await make();
		expect(await scan(code, 'W-6')).toMatchObject({ taken: true, said: expect.stringContaining('W-66') });
	});

	it('is made of a shipment with what they still have of it', async () => {
		const [{ id }] = await db.sql<{ id: string }[]>`
			WITH o AS (INSERT INTO orders (code, kind, partner_id, created_by) SELECT 'SO-9', 'sale', id, 'ines' FROM partner WHERE code = 'LINDOW' RETURNING id)
			SELECT id FROM o`;
		await db.sql`INSERT INTO order_line (order_id, no, role, item_id, qty) SELECT ${id}, 1, 'goods', i.id, 2 FROM item i WHERE i.code = 'WM'`;
		const order = (await getOrder(db.sql, 'SO-9'))!;
		await bookTest(db.sql, {
			...{
				key: 'so-9',
				kind: 'shipment',
				partner: 'LINDOW',
				order: order.id,
				document: 'SO-9',
				at: '2026-03-08T08:00:00Z'
			},
			movements: ['W-7', 'W-8'].map((serial) => ({
				...{ item: 'WM', serial, qty: '1', from: 'QS/A1', to: '@customer', orderLine: order.lines[0].id }
			}))
		});
		const [event] = await db.sql<{ id: string }[]>`SELECT id FROM event WHERE key = 'so-9'`;
		const first = await firstOf(db.sql, 'return', url(`event=${event.id}`));
		expect(first).toEqual({
			partner: 'LINDOW',
			lines: [{ item: 'WM', qty: '2' }],
			about: 'SO-9',
			mark: null,
			event: event.id
		});
		const code = await make({ partner: 'LINDOW', lines: first!.lines });
		await enterFirst(db.sql, 'tobi', code, { mark: null, event: event.id });
		expect((await rows(code)).map((r) => r.number)).toEqual(['W-7', 'W-8']);
		// From the number alone, too: with whom it is.
		expect(await firstOf(db.sql, 'return', url(`mark=${await markId('W-8')}`))).toMatchObject({ partner: 'LINDOW' });
	});

	it('stays on its list until what is to be done is ticked off; an undo takes it back', async () => {
		const code = await make({ lines: [{ item: 'CAP', qty: '3' }] });
		// What carries no number is taken as it is said.
		expect((await rows(code)).map((r) => [r.kind, r.qty])).toEqual([['unmarked', '3']]);
		const { lines } = await sheetState(db.sql, code);
		const [p] = lines[0].cells[0].picks;
		await saveRows(db.sql, 'tobi', (await getOrder(db.sql, code))!, [
			{
				id: randomUUID(),
				lineId: lines[0].id,
				version: 0,
				data: { mark: p.mark, place: p.place, qty: '3', goes: 'stock' }
			}
		]);
		const booked = await bookNow(code);
		const listed = async () =>
			(
				await listPage(db.sql, documentList('return'), readView(documentList('return'), new URLSearchParams('')), {
					today: '2026-03-10',
					login: 'ines'
				})
			).rows.find((r) => r.code === code)?.state;
		expect(await listed()).toBe('to settle');
		const order = (await getOrder(db.sql, code))!;
		expect(order.todos).toEqual([{ id: expect.any(String), what: 'Credit it, or send another', done: null }]);
		await setTodo(db.sql, tobi, order, { what: 'Ring Mrs Sken' });
		await setTodo(db.sql, tobi, order, { id: order.todos[0].id, done: true, said: 'CN-114' });
		await expect(setTodo(db.sql, tobi, order, { id: order.todos[0].id, done: true })).rejects.toThrow('same moment');
		expect((await getOrder(db.sql, code))!.todos).toMatchObject([
			{ done: { by: 'tobi', said: 'CN-114' } },
			{ done: null }
		]);
		await undoEvent(db.sql, ines, { undo: booked.id, key: randomUUID(), reason: 'Wrong customer' });
		expect((await getOrder(db.sql, code))!.closedAt).toBeNull();
	});

	it('leaves a ledger that adds up', async () => {
		expect(await findingsOf(db.sql)).toEqual([]);
	});

	it('a count is not made like this, and has no lines', async () => {
		await expect(make({ kind: 'count', partner: '', reason: '', lines: [{ item: 'CAP', qty: '1' }] })).rejects.toThrow(
			'A count has no lines.'
		);
	});

	it('wants a customer, a place and a reason for this', async () => {
		await expect(make({ partner: '' })).rejects.toThrow('Choose the customer.');
		await expect(make({ place: '' })).rejects.toThrow('Choose the place where it arrives.');
		await expect(make({ reason: 'Missing' })).rejects.toThrow('“Missing” is a reason to take out');
		await expect(make({ code: 'returns' })).rejects.toThrow('“returns”');
		await expect(make({ kind: 'sale', reason: '', place: 'QS' })).rejects.toThrow('at least one line');
	});
});
