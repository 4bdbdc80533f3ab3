import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { appendChanges } from '../ledger/changes.ts';
import { createItem } from '../setup/items.ts';
import { backAnswer, forwardAnswer } from '../../../../tests/traced.ts';
import { traceCsv } from './csv.ts';
import { traceView } from './view.ts';

const db = testDatabase();
/** Numbers with blanks are refused today; older books hold them. */
const BLANKS: Record<string, string> = { 'A-1': 'A 1', 'A--2': 'A  2', 'é-3': 'é 3' };
/** Numbers that would break a list of texts with anything between them. */
const typed = [
	...Object.keys(BLANKS),
	...['a,b', '{a}', '"a"', "it's", 'a\\b', 'NULL', 'null', '=SUM(1)', '-7', '+1', '@x']
];
const NUMBERS = typed.map((n) => BLANKS[n] ?? n);

beforeAll(async () => {
	await createItem(db.sql, 'ines', { code: 'RAW', name: 'Raw', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'OUT', name: 'Out', unit: 'kg', decimals: 3, tracking: 'lot' });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S 1',
		movements: typed.map((lot) => ({ item: 'RAW', lot, qty: '1', from: '@supplier', to: 'QS/A1' }))
	});
	await bookTest(db.sql, {
		kind: 'output',
		at: '2026-03-02T08:00:00Z',
		runs: typed.map((n, i) => ({ code: `run ${i} ${n}` })),
		movements: typed.flatMap((lot, i) => [
			{ item: 'RAW', lot, qty: '1', from: 'QS/A1', to: '@process', run: `run ${i} ${lot}`, role: 'use' as const },
			{ item: 'OUT', lot, qty: '1', from: '@process', to: 'QS/A1', run: `run ${i} ${lot}`, role: 'make' as const }
		])
	});
	const marks = await db.sql<{ id: string; number: string }[]>`
		SELECT id, number FROM mark WHERE number = ANY(${Object.keys(BLANKS)})`;
	await appendChanges(
		db.sql,
		ines,
		{ key: 'blanks', kind: 'correct', reason: 'as it is printed' },
		marks.map((m) => m.id),
		async () => marks.map((m) => ({ mark: m.id, field: 'lot_no', value: BLANKS[m.number] }))
	);
});

describe.each(NUMBERS)('the number %j', (lot) => {
	it('is traced forward and back as it is', async () => {
		const forward = (await forwardAnswer(db.sql, { item: 'RAW', lot }, {}))!;
		expect(forward.where).toMatchObject([{ item: 'OUT', lot, state: 'on hand', content: '1' }]);
		const back = (await backAnswer(db.sql, { item: 'OUT', lot }, {}))!;
		expect(back.marks).toContainEqual({ item: 'RAW', lot, serial: null });
		expect(back.suppliers).toMatchObject([{ partner: 'S 1' }]);
	});
	it('is a plain text in a spreadsheet, and never a formula', async () => {
		const [{ id }] = await db.sql<{ id: string }[]>`
			SELECT k.id FROM mark k JOIN item i ON i.id = k.item_id AND i.code = 'RAW' WHERE k.number = ${lot}`;
		const view = (await traceView(db.sql, id, 'forward'))!;
		for (const part of ['where', 'numbers'] as const) {
			const csv = traceCsv(view, part);
			for (const cell of csv.slice(1).split(/[\r\n,]+/)) expect(cell.replace(/^"/, '')).not.toMatch(/^[=+\-@\t\r]/);
			expect(csv).toContain(lot.replaceAll('"', '""'));
		}
	});
});
