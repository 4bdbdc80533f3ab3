import { beforeAll, describe, expect, it } from 'vitest';
import type { EventInput } from '../../src/lib/core/ledger/input.ts';
import type { Rule } from '../../src/lib/core/marking/rule.ts';
import { Problem } from '../../src/lib/core/problem/problem.ts';
import { createDocument } from '../../src/lib/server/document/create.ts';
import { getOrder, type Order } from '../../src/lib/server/document/orders.ts';
import { enterFromNotice, takeNotice } from '../../src/lib/server/inbound/notice.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { sealAll } from '../../src/lib/server/ledger/seal.ts';
import { changeItem, createItem, listItems } from '../../src/lib/server/setup/items.ts';
import { addPartner, addPlace } from '../../src/lib/server/setup/places.ts';
import { savePolicy } from '../../src/lib/server/setup/policy.ts';
import { saveRows, type RowData } from '../../src/lib/server/sheet/drafts.ts';
import { undoScan } from '../../src/lib/server/sheet/scan.ts';
import { bookSheet, sheetState } from '../../src/lib/server/sheet/state.ts';
import { backAnswer, forwardAnswer } from '../traced.ts';
import { findingsOf, ines, testDatabase } from './cluster.ts';
import { takeScan } from './sheets.ts';

/* How a number became known goes with each movement, from every door, and a trace says and counts it. */
const db = testDatabase();

const order = async (kind: 'purchase' | 'sale' | 'production', item: string, qty: string): Promise<Order> => {
	const partner = { purchase: 'S1', sale: 'C1', production: null }[kind];
	const place = kind === 'sale' ? 'QS' : 'QS/A1';
	return (await getOrder(
		db.sql,
		await createDocument(db.sql, 'ines', { kind, partner, place, lines: [{ item, qty }] })
	))!;
};
const type = (o: Order, id: string, version: number, data: RowData) =>
	saveRows(db.sql, 'ines', o, [{ id, lineId: o.lines[0].id, version, data }]);
const scan = (o: Order, text: string, id = crypto.randomUUID()) =>
	takeScan(db.sql, 'ines', o, { id, text, lineId: o.lines[0].id });
const rowsOf = async (o: Order) => (await sheetState(db.sql, o.code)).lines[0].rows;
const press = async (o: Order, reason?: string) => {
	const { stamp } = await sheetState(db.sql, o.code);
	return bookSheet(db.sql, ines, o.code, { key: crypto.randomUUID(), stamp, ...(reason ? { reason } : {}) });
};
const known = async (event: string) =>
	(
		await db.sql<{ number: string; evidence: string | null }[]>`
			SELECT coalesce(k.number, 'unmarked') AS number, m.evidence FROM movement m JOIN mark k ON k.id = m.mark_id WHERE m.event_id = ${event} ORDER BY m.id`
	).map((m) => `${m.number} ${m.evidence ?? 'not said'}`);
const rule = async (code: string, change: (r: Rule) => Rule) => {
	const [item] = await listItems(db.sql, code);
	await changeItem(db.sql, 'ines', code, {
		name: item.name,
		parts: item.parts.map((p) => ({ item: p.item, qty: p.qty })),
		rules: item.rules.map(change)
	});
};

beforeAll(async () => {
	await addPlace(db.sql, 'ines', { code: 'QS', name: 'QS' });
	await addPlace(db.sql, 'ines', { code: 'QS/A1', name: 'A1' });
	await addPartner(db.sql, 'ines', { code: 'S1', name: 'S1', kind: 'supplier' });
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'C1', kind: 'customer' });
	const each = { unit: 'each', decimals: 0 };
	await createItem(db.sql, 'ines', { ...each, code: 'CELL', name: 'Cell', tracking: 'serial' });
	await createItem(db.sql, 'ines', { ...each, code: 'CAP', name: 'Cap', tracking: 'none' });
	await createItem(db.sql, 'ines', { code: 'SALT', name: 'Salt', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', {
		code: 'MIX',
		name: 'Mix',
		unit: 'kg',
		decimals: 3,
		tracking: 'lot',
		parts: [{ item: 'SALT', qty: '1' }]
	});
});

describe('what comes in', () => {
	it('is scanned or typed, number by number, as its row says', async () => {
		const o = await order('purchase', 'CELL', '6');
		const id = crypto.randomUUID();
		await type(o, id, 0, { serial: 'C-01', count: 3 });
		expect((await rowsOf(o))[0].known).toBe('');
		// The second of the typed ones is looked at, and three more are scanned after another.
		expect(await scan(o, 'C-02')).toMatchObject({
			taken: true,
			said: 'C-02 looked at in line 1, Cell: 3 of 6'
		});
		expect((await rowsOf(o))[0].known).toBe('1 of 3 scanned');
		for (const n of ['C-11', 'C-12', 'C-13']) await scan(o, n);
		expect((await rowsOf(o)).map((r) => [r.serial, r.count, r.known])).toEqual([
			['C-01', 3, '1 of 3 scanned'],
			['C-11', 3, 'scanned']
		]);
		const { id: event } = await press(o);
		expect(await known(event)).toEqual([
			'C-01 entered',
			'C-02 scanned',
			'C-03 entered',
			'C-11 scanned',
			'C-12 scanned',
			'C-13 scanned'
		]);
	});
	it('is scanned no more once its number is typed over, and keeps it while something else is typed', async () => {
		const o = await order('purchase', 'SALT', '5');
		await scan(o, 'S-1');
		const [row] = await rowsOf(o);
		await type(o, row.id, row.version, { lot: 'S-1', qty: '4' });
		expect((await rowsOf(o))[0]).toMatchObject({ known: 'scanned', qty: '4' });
		await type(o, row.id, row.version + 1, { lot: 'S-1X', qty: '4' });
		expect((await rowsOf(o))[0]).toMatchObject({ known: '', lot: 'S-1X' });
		// Nobody types that something was scanned.
		const forged = { lot: 'S-1X', qty: '4', scanned: '0' } as RowData;
		await expect(type(o, row.id, row.version + 2, forged)).rejects.toBeInstanceOf(Problem);
		const { id } = await press(o);
		expect(await known(id)).toEqual(['S-1X entered']);
	});
	it('is as it was once a scan is taken back', async () => {
		const o = await order('purchase', 'CELL', '2');
		await type(o, crypto.randomUUID(), 0, { serial: 'U-1', count: 2 });
		const id = crypto.randomUUID();
		await scan(o, 'U-2', id);
		await undoScan(db.sql, 'ines', o, id);
		expect((await rowsOf(o))[0].known).toBe('');
		await scan(o, 'U-2', crypto.randomUUID());
		expect((await rowsOf(o))[0].known).toBe('1 of 2 scanned');
		expect(await scan(o, 'U-2')).toMatchObject({ taken: false });
		await press(o);
	});
	it('is reported where a notice said so, until somebody looks', async () => {
		const o = await order('purchase', 'CELL', '3');
		await takeNotice(db.sql, 'ines', o, {
			name: 'notice.csv',
			text: 'item,serial\nCELL,N-1\nCELL,N-2\nCELL,N-3\n'
		});
		await enterFromNotice(db.sql, 'ines', o, {});
		expect((await rowsOf(o))[0]).toMatchObject({ serial: 'N-1', count: 3, known: 'announced' });
		await scan(o, 'N-1');
		const { id } = await press(o);
		expect(await known(id)).toEqual(['N-1 scanned', 'N-2 reported', 'N-3 reported']);
	});
});

describe('what goes', () => {
	it('is accepted as suggested, chosen by hand, or scanned', async () => {
		const event = (key: string, lots: string[]): EventInput => ({
			...{ key, kind: 'receipt', at: '2026-03-01T08:00:00Z', partner: 'S1' },
			movements: lots.map((lot) => ({ item: 'SALT', lot, qty: '5', from: '@supplier', to: 'QS/A1' }))
		});
		await book(db.sql, { ...ines, source: 'api' }, event('api', ['L-1', 'L-2', 'L-3']));
		const o = await order('sale', 'SALT', '2');
		expect((await sheetState(db.sql, o.code)).lines[0].cells[0].picks[0].evidence).toBe('accepted');
		const [{ id: mark }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = 'L-2'`;
		const pick = crypto.randomUUID();
		await type(o, pick, 0, { mark, place: 'QS/A1', qty: '2', accepted: true });
		const shown = async () =>
			(await sheetState(db.sql, o.code)).lines[0].cells[0].picks.map((p) => [p.number, p.evidence]);
		expect(await shown()).toEqual([['L-2', 'accepted']]);
		await type(o, pick, 1, { mark, place: 'QS/A1', qty: '2' });
		expect(await shown()).toEqual([['L-2', 'entered']]);
		expect(await scan(o, 'L-2')).toMatchObject({ taken: true });
		expect(await shown()).toEqual([['L-2', 'scanned']]);
		expect(await known((await press(o)).id)).toEqual(['L-2 scanned']);
		const other = await order('sale', 'SALT', '1');
		await scan(other, 'L-3');
		expect(await known((await press(other)).id)).toEqual(['L-3 scanned']);
	});
	it('is not asked of stock without a number', async () => {
		const { id } = await book(db.sql, ines, {
			...{ key: 'caps', kind: 'receipt', at: '2026-03-01T08:00:00Z', partner: 'S1' },
			movements: [{ item: 'CAP', qty: '9', from: '@supplier', to: 'QS/A1', evidence: 'scanned' }]
		});
		expect(await known(id)).toEqual(['unmarked not said']);
	});
	it('goes back as it was when it is undone', async () => {
		const [{ key, id }] = await db.sql<{ key: string; id: string }[]>`
			SELECT e.key, e.id FROM event e JOIN movement m ON m.event_id = e.id JOIN mark k ON k.id = m.mark_id WHERE k.number = 'L-3' AND e.kind = 'shipment'`;
		const undo = await book(db.sql, ines, { key: 'back', kind: 'undo', at: new Date().toISOString(), undoes: key });
		expect(await known(undo.id)).toEqual(await known(id));
	});
});

describe('a program', () => {
	it('reports, unless it says how it knows', async () => {
		const send = (key: string, evidence?: 'scanned') =>
			book(
				db.sql,
				{ ...ines, source: 'api' },
				{
					...{ key, kind: 'receipt', at: '2026-03-01T08:00:00Z', partner: 'S1' },
					movements: [{ item: 'CELL', serial: `P-${key}`, qty: '1', from: '@supplier', to: 'QS/A1', evidence }]
				}
			);
		expect(await known((await send('one')).id)).toEqual(['P-one reported']);
		const { id } = await send('two', 'scanned');
		expect(await known(id)).toEqual(['P-two scanned']);
		await sealAll(db.sql);
		const [{ entry }] = await db.sql<{ entry: string }[]>`SELECT entry FROM ledger_leaf WHERE event_id = ${id}`;
		expect(JSON.parse(entry)).toMatchObject({ format: 2, movements: [{ evidence: 'scanned', serial: 'P-two' }] });
	});
});

describe('a marking rule', () => {
	it('asks for a scan at a step, as strongly as the firm says', async () => {
		await rule('SALT', (r) => (r.step === 'shipment' ? { ...r, evidence: 'scanned' } : r));
		const o = await order('sale', 'SALT', '1');
		const message =
			/^Lot L-1 was suggested, not checked; at shipment it is to be scanned\. Scan the label, or say why it cannot be\.$/;
		expect((await sheetState(db.sql, o.code)).missing).toMatchObject([
			{ code: 'evidence', level: 'reason', message: expect.stringMatching(message) }
		]);
		await expect(press(o)).rejects.toThrow('Scan the label');
		await savePolicy(db.sql, 'ines', { evidence: 'stop' });
		await expect(press(o, 'no scanner')).rejects.toThrow('It cannot be booked like this.');
		await savePolicy(db.sql, 'ines', { evidence: 'note' });
		const noted = await press(o);
		expect(noted.notes.map((n) => n.code)).toContain('evidence');
		await savePolicy(db.sql, 'ines', { evidence: 'reason' });
		const other = await order('sale', 'SALT', '1');
		await scan(other, 'L-1');
		expect((await sheetState(db.sql, other.code)).missing).toEqual([]);
		await press(other);
	});
	it('takes what is typed where that is enough, and no report', async () => {
		await rule('CELL', (r) => (r.step === 'receipt' ? { ...r, evidence: 'entered' } : r));
		const typed = await order('purchase', 'CELL', '1');
		await type(typed, crypto.randomUUID(), 0, { serial: 'T-1', count: 1 });
		await press(typed);
		await expect(
			book(
				db.sql,
				{ ...ines, source: 'api' },
				{
					...{ key: 'said', kind: 'receipt', at: '2026-03-01T08:00:00Z', partner: 'S1' },
					movements: ['T-2', 'T-3'].map((serial) => ({
						item: 'CELL',
						serial,
						qty: '1',
						from: '@supplier',
						to: 'QS/A1'
					}))
				}
			)
		).rejects.toThrow('Serial T-2 was reported, not checked; at receipt it is to be scanned or typed.');
	});
});

describe('a trace', () => {
	it('says how each link is known, counts them, and lists among the gaps what nobody looked at', async () => {
		const made = await order('production', 'MIX', '1');
		await saveRows(db.sql, 'ines', made, [
			{ id: crypto.randomUUID(), lineId: made.lines[0].id, version: 0, data: { lot: 'M-1', qty: '1' } }
		]);
		await press(made);
		const back = (await backAnswer(db.sql, { item: 'MIX', lot: 'M-1' }, {}))!;
		expect(back.evidence).toEqual({ scanned: 0, entered: 1, accepted: 1, reported: 1, unknown: 0 });
		expect(back.gaps).toMatchObject([{ kind: 'not looked at', item: 'SALT', qty: '1' }]);
		const [{ lot }] = back.gaps as unknown as { lot: string }[];
		const out = await order('sale', 'MIX', '1');
		await scan(out, 'M-1');
		await press(out);
		const forward = (await forwardAnswer(db.sql, { item: 'SALT', lot }, {}))!;
		expect(forward.evidence).toEqual({ scanned: 2, entered: 1, accepted: 1, reported: 0, unknown: 0 });
	});
	it('through a ledger that is whole', async () => expect(await findingsOf(db.owner)).toEqual([]));
});
