import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { words } from '../../../../tests/pdf.ts';
import { createDocument, type DocumentInput } from '../document/create.ts';
import { enterFirst, firstOf } from '../document/first.ts';
import { getOrder } from '../document/orders.ts';
import { setStatus } from '../ledger/changes.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace } from '../setup/places.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import { shippingPaper } from './packing.ts';
import { takeScan } from '../../../../tests/db/sheets.ts';

const db = testDatabase();
const rhea = { ...ines, name: 'rhea', role: 'receiving and shipping' };
const make = (more: Partial<DocumentInput> = {}) =>
	createDocument(db.sql, 'rhea', {
		...{ kind: 'supplier-return', partner: 'OST', place: 'QS', reason: 'Faulty on arrival', lines: [] },
		...more
	});
const scan = async (code: string, text: string) =>
	takeScan(db.sql, 'rhea', (await getOrder(db.sql, code))!, { id: randomUUID(), text });
const bookNow = async (code: string, reason?: string) =>
	bookSheet(db.sql, rhea, code, { key: randomUUID(), stamp: (await sheetState(db.sql, code)).stamp, reason });
const said = async (code: string) => (await sheetState(db.sql, code)).missing.map((m) => `${m.level}: ${m.message}`);
const picks = async (code: string) =>
	(await sheetState(db.sql, code)).lines.flatMap((l) =>
		l.cells.flatMap((c) => c.picks.map((p) => [p.number, p.place, p.qty]))
	);
const markId = async (number: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`)[0].id;

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'ND', 'ND/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	for (const [code, name] of [
		['OST', 'Ostrel'],
		['BRI', 'Brint']
	])
		await addPartner(db.sql, 'ines', { code, name, kind: 'supplier' });
	await createItem(db.sql, 'ines', { code: 'BRD', name: 'Board', unit: 'each', tracking: 'serial' });
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
	const order = (await getOrder(
		db.sql,
		await createDocument(db.sql, 'ines', {
			...{ kind: 'purchase', code: 'PO-1', partner: 'OST', place: 'QS/A1' },
			lines: [
				{ item: 'BRD', qty: '3' },
				{ item: 'GEL', qty: '5' }
			]
		})
	))!;
	await bookTest(db.sql, {
		...{ key: 'po-1', kind: 'receipt', partner: 'OST', order: order.id, document: 'PO-1' },
		movements: [
			...['D-1', 'D-2', 'D-3'].map((serial) => ({
				...{ item: 'BRD', serial, qty: '1', from: '@supplier', to: 'QS/A1', orderLine: order.lines[0].id }
			})),
			{ item: 'GEL', lot: 'G-1', qty: '5', from: '@supplier', to: 'QS/A1', orderLine: order.lines[1].id }
		]
	});
	await bookTest(db.sql, {
		...{ kind: 'receipt', partner: 'BRI', at: '2026-03-01T09:00:00Z' },
		movements: ['E-1', 'E-2'].map((serial, n) => ({
			...{ item: 'BRD', serial, qty: '1', from: '@supplier', to: n ? 'ND/A1' : 'QS/A1' }
		}))
	});
	await bookTest(db.sql, {
		...{ kind: 'adjust', at: '2026-03-02T09:00:00Z', reason: 'Spilt' },
		movements: [{ item: 'GEL', lot: 'G-1', qty: '1.5', from: 'QS/A1', to: '@adjust' }]
	});
});

describe('a return to a supplier', () => {
	it('takes what is scanned, held or not, with its papers; what is owed stays to be done', async () => {
		await setStatus(db.sql, ines, { key: 'h', act: 'hold', mark: await markId('D-1'), reason: 'No light' });
		const code = await make();
		expect(await scan(code, 'D-1')).toMatchObject({ taken: true, said: 'Serial D-1 from QS/A1 into line 1, Board: 1' });
		expect(await said(code)).toEqual([]);
		const { id } = await bookNow(code);
		const order = (await getOrder(db.sql, code))!;
		expect(order.closedAt).not.toBeNull();
		expect(order.todos.map((t) => t.what)).toEqual(['Credit or replacement received']);
		const paper = await words((await shippingPaper(db.sql, 'rhea', code, id, 'packing list'))!);
		for (const word of [code, 'Ostrel', 'D-1', 'Sent back']) expect(paper).toContain(word);
	});

	it('is made of a receipt with what is still there of it', async () => {
		const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM event WHERE key = 'po-1'`;
		const first = (await firstOf(db.sql, 'supplier-return', new URL(`http://x/?event=${id}`)))!;
		expect(first).toMatchObject({
			partner: 'OST',
			about: 'PO-1',
			lines: [
				{ item: 'BRD', qty: '3' },
				{ item: 'GEL', qty: '5' }
			]
		});
		const code = await make({ lines: first.lines });
		await enterFirst(db.sql, 'rhea', code, first);
		expect(await picks(code)).toEqual([
			['D-2', 'QS/A1', '1'],
			['D-3', 'QS/A1', '1'],
			['G-1', 'QS/A1', '3.5']
		]);
		expect(await firstOf(db.sql, 'supplier-return', new URL(`http://x/?mark=${await markId('E-1')}`))).toMatchObject({
			...{ partner: 'BRI', lines: [{ item: 'BRD', qty: '1' }] }
		});
	});

	it('to another than it came from asks why; one that is elsewhere or gone says so', async () => {
		const code = await make();
		await scan(code, 'E-1');
		expect(await said(code)).toEqual([
			'reason: Serial E-1 came from Brint, not from Ostrel. Check the number, or say why it goes to them.'
		]);
		await expect(bookNow(code)).rejects.toThrow('came from Brint');
		await bookNow(code, 'Ostrel collects for Brint');
		const other = await make();
		expect(await scan(other, 'E-1')).toMatchObject({
			taken: false,
			said: 'E-1 is not on hand, so it cannot go back. Look at its page for where it went.'
		});
		expect(await scan(other, 'E-2')).toMatchObject({
			taken: false,
			said: 'E-2 is at ND/A1, and this return takes from QS. Make one for that site.'
		});
		expect(await scan(other, 'E-9')).toMatchObject({ taken: false, said: expect.stringContaining('Was it E-') });
	});

	it('leaves a ledger that adds up', async () => {
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
