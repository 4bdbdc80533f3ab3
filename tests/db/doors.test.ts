import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { CHECKS, POLICY_CHECKS } from '../../src/lib/core/checks/catalogue.ts';
import type { EventInput } from '../../src/lib/core/ledger/input.ts';
import { Problem } from '../../src/lib/core/problem/problem.ts';
import { createDocument } from '../../src/lib/server/document/create.ts';
import { getOrder } from '../../src/lib/server/document/orders.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { setStatus } from '../../src/lib/server/ledger/changes.ts';
import { savePattern } from '../../src/lib/server/numbering/patterns.ts';
import { createItem } from '../../src/lib/server/setup/items.ts';
import { addPartner, addPlace } from '../../src/lib/server/setup/places.ts';
import { savePolicy } from '../../src/lib/server/setup/policy.ts';
import { saveRows, type RowData } from '../../src/lib/server/sheet/drafts.ts';
import { bookSheet, sheetState } from '../../src/lib/server/sheet/state.ts';
import { bookTest, ines, testDatabase } from './cluster.ts';

/*
 * What is refused at one door is refused at each, with the same code, level and sentence: the row as it is typed, the
 * foot bar, the press of the button, and a program's call.
 */
const db = testDatabase();

interface Case {
	/** the check that speaks */
	code: string;
	level: 'stop' | 'reason';
	kind: 'purchase' | 'sale';
	item: string;
	row: RowData;
	/** the same, as a program sends it */
	movement?: Partial<NonNullable<EventInput['movements']>[number]>;
}
const lot = (n: string, more: RowData = {}): RowData => ({ lot: n, qty: '1', ...more });
const CASES: Case[] = [
	{ code: 'expired', level: 'reason', kind: 'purchase', item: 'GEL', row: lot('N-1', { expiresOn: '2020-01-31' }) },
	{ code: 'too short', level: 'reason', kind: 'purchase', item: 'FRESH', row: lot('N-2', { expiresOn: '2026-12-20' }) },
	{ code: 'expiry missing', level: 'stop', kind: 'purchase', item: 'GEL', row: lot('N-3') },
	{ code: 'number missing', level: 'stop', kind: 'purchase', item: 'GEL', row: { qty: '1', expiresOn: '2030-01-31' } },
	{ code: 'other expiry', level: 'stop', kind: 'purchase', item: 'GEL', row: lot('G-1', { expiresOn: '2031-01-31' }) },
	{
		code: 'other made on',
		level: 'stop',
		kind: 'purchase',
		item: 'GEL',
		row: lot('G-1', { expiresOn: '2030-01-31', madeOn: '2026-01-02' })
	},
	{ code: 'looks alike', level: 'reason', kind: 'purchase', item: 'GEL', row: lot('g-1', { expiresOn: '2030-01-31' }) },
	{
		code: 'made ahead',
		level: 'stop',
		kind: 'purchase',
		item: 'GEL',
		row: lot('N-4', { expiresOn: '2040-01-31', madeOn: '2035-01-01' })
	},
	{
		code: 'expires before made',
		level: 'stop',
		kind: 'purchase',
		item: 'GEL',
		row: lot('N-5', { expiresOn: '2026-11-01', madeOn: '2026-11-02' })
	},
	{ code: 'on hand', level: 'stop', kind: 'purchase', item: 'CELL', row: { serial: 'C-1', count: 1 } },
	{ code: 'gone', level: 'stop', kind: 'purchase', item: 'CELL', row: { serial: 'C-GONE', count: 1 } },
	{ code: 'another item', level: 'reason', kind: 'purchase', item: 'CELL', row: { serial: 'O-1', count: 1 } },
	{ code: 'misfit', level: 'stop', kind: 'purchase', item: 'FORMED', row: { serial: 'X9', count: 1 } },
	{ code: 'status', level: 'stop', kind: 'sale', item: 'GEL', row: { mark: 'G-HELD', place: 'QS/A1', qty: '1' } },
	{
		code: 'expired goes',
		level: 'reason',
		kind: 'sale',
		item: 'GEL',
		row: { mark: 'G-OLD', place: 'QS/A1', qty: '1' }
	},
	{ code: 'short', level: 'stop', kind: 'sale', item: 'GEL', row: { mark: 'G-1', place: 'QS/A1', qty: '7' } }
];

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'S1', name: 'Supplier', kind: 'supplier' });
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'Customer', kind: 'customer' });
	await savePattern(db.sql, 'ines', {
		code: 'FORMED',
		name: 'Formed',
		blocks: [
			{ kind: 'text', text: 'F-' },
			{ kind: 'sequence', digits: 4, reset: 'never' }
		]
	});
	const each = { unit: 'each', decimals: 0 };
	await createItem(db.sql, 'ines', {
		code: 'GEL',
		name: 'Gel',
		unit: 'kg',
		decimals: 3,
		tracking: 'lot',
		expiry: 'required'
	});
	await createItem(db.sql, 'ines', {
		code: 'FRESH',
		name: 'Fresh',
		unit: 'kg',
		decimals: 3,
		tracking: 'lot',
		expiry: 'required',
		leastLeft: 'P2Y'
	});
	await createItem(db.sql, 'ines', { ...each, code: 'CELL', name: 'Cell', tracking: 'serial' });
	await createItem(db.sql, 'ines', { ...each, code: 'OTHER', name: 'Other', tracking: 'serial' });
	await createItem(db.sql, 'ines', {
		...each,
		code: 'FORMED',
		name: 'Formed',
		tracking: 'serial',
		serialPattern: 'FORMED'
	});
	const arrive = (item: string, number: object, more: object = {}) => ({
		item,
		qty: '1',
		from: '@supplier',
		to: 'QS/A1',
		...number,
		...more
	});
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		reason: 'for the test',
		movements: [
			arrive('GEL', { lot: 'G-1' }, { qty: '5', expiresOn: '2030-01-31', madeOn: '2026-01-01' }),
			arrive('GEL', { lot: 'G-HELD' }, { expiresOn: '2030-01-31' }),
			arrive('GEL', { lot: 'G-OLD' }, { expiresOn: '2026-03-31' }),
			arrive('CELL', { serial: 'C-1' }),
			arrive('CELL', { serial: 'C-GONE' }),
			arrive('OTHER', { serial: 'O-1' })
		]
	});
	await bookTest(db.sql, {
		kind: 'shipment',
		partner: 'C1',
		at: '2026-03-02T08:00:00Z',
		movements: [{ item: 'CELL', serial: 'C-GONE', qty: '1', from: 'QS/A1', to: '@customer' }]
	});
	const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'G-HELD'`;
	await setStatus(db.sql, ines, { key: 'hold', act: 'hold', mark: id, reason: 'for the test' });
});

interface Said {
	code: string;
	level: string;
	message: string;
}
const only = (code: string, list: readonly { code?: string; level?: string; message: string }[]): Said[] =>
	list
		.filter((f) => f.code === code)
		.map(({ level, message }) => ({ code, level: level!, message: message.replace(/^Line \d+: /, '') }));
const refusal = async (act: Promise<unknown>) => {
	const e = await act.then(
		() => null,
		(error: unknown) => error
	);
	expect(e).toBeInstanceOf(Problem);
	return (e as Problem).faults;
};

describe.each(CASES)('$code ($item)', ({ code, level, kind, item, row, movement }) => {
	it('is said alike in the row, in the foot bar, at the button and to a program', async () => {
		const [known] = row.mark ? await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${row.mark}` : [];
		const order = (await getOrder(
			db.sql,
			await createDocument(db.sql, 'ines', {
				kind,
				partner: kind === 'sale' ? 'C1' : 'S1',
				place: kind === 'sale' ? 'QS' : 'QS/A1',
				lines: [{ item, qty: row.qty ?? '1' }]
			})
		))!;
		await saveRows(db.sql, 'ines', order, [
			{ id: randomUUID(), lineId: order.lines[0].id, version: 0, data: known ? { ...row, mark: known.id } : row }
		]);
		const sheet = await sheetState(db.sql, order.code);
		const [line] = sheet.lines;
		const inRow = only(code, [
			...line.rows.flatMap((r) => r.findings),
			...line.cells.flatMap((c) => c.picks.flatMap((p) => p.findings))
		]);
		const inFoot = only(code, sheet.missing);
		const before = await db.sql`SELECT last_event FROM ledger_head`;
		const atButton = only(
			code,
			await refusal(bookSheet(db.sql, ines, order.code, { key: randomUUID(), stamp: sheet.stamp }))
		);
		const { mark: number, serial, lot: lotNo, expiresOn, madeOn, qty = '1' } = row;
		const ends = kind === 'sale' ? { from: 'QS/A1', to: '@customer' } : { from: '@supplier', to: 'QS/A1' };
		const toProgram = only(
			code,
			await refusal(
				book(
					db.sql,
					{ ...ines, source: 'api' },
					{
						key: randomUUID(),
						kind: kind === 'sale' ? 'shipment' : 'receipt',
						at: new Date().toISOString(),
						partner: kind === 'sale' ? 'C1' : 'S1',
						movements: [{ item, qty, lot: number ?? lotNo, serial, expiresOn, madeOn, ...ends, ...movement }]
					}
				)
			)
		);
		expect(inRow).toMatchObject([{ code, level }]);
		expect({ inFoot, atButton, toProgram }).toEqual({ inFoot: inRow, atButton: inRow, toProgram: inRow });
		expect(await db.sql`SELECT last_event FROM ledger_head`).toEqual(before);
	});
});

describe('a check that is a matter of policy', () => {
	it('binds a program as it binds a screen, as strongly as the firm says', async () => {
		const arrive = (key: string, n: string, reason?: string) =>
			book(
				db.sql,
				{ ...ines, source: 'api' },
				{
					key,
					kind: 'receipt',
					at: new Date().toISOString(),
					partner: 'S1',
					reason,
					movements: [{ item: 'GEL', lot: n, qty: '1', from: '@supplier', to: 'QS/A1', expiresOn: '2020-01-31' }]
				}
			);
		await savePolicy(db.sql, 'ines', { expired: 'stop' });
		await expect(arrive('p-1', 'P-1', 'agreed')).rejects.toThrow('It cannot be booked so');
		await savePolicy(db.sql, 'ines', { expired: 'reason' });
		await expect(arrive('p-2', 'P-2')).rejects.toThrow('Say why');
		await arrive('p-3', 'P-3', 'agreed');
		await savePolicy(db.sql, 'ines', { expired: 'note' });
		expect((await arrive('p-4', 'P-4')).notes.map((n) => n.code)).toContain('expired');
	});
	it('has a sentence of when it speaks, and every check has a code of its own', () => {
		expect(POLICY_CHECKS.every((c) => CHECKS.has(c.code) && c.says)).toBe(true);
		expect(new Set([...CHECKS.values()].map((c) => c.code)).size).toBe(CHECKS.size);
		for (const { code } of CASES) expect(CHECKS.has(code), code).toBe(true);
	});
});
