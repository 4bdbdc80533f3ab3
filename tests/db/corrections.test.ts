import { beforeAll, describe, expect, it } from 'vitest';
import { symbols } from '../../src/lib/core/labels/label.ts';
import { Problem } from '../../src/lib/core/problem/problem.ts';
import { createDocument } from '../../src/lib/server/document/create.ts';
import { getOrder } from '../../src/lib/server/document/orders.ts';
import { undoEvent } from '../../src/lib/server/document/undo.ts';
import { printLabels } from '../../src/lib/server/labels/jobs.ts';
import { book } from '../../src/lib/server/ledger/book.ts';
import { setStatus } from '../../src/lib/server/ledger/changes.ts';
import { correct } from '../../src/lib/server/ledger/corrections.ts';
import { sealAll } from '../../src/lib/server/ledger/seal.ts';
import { find } from '../../src/lib/server/register/find.ts';
import { lifeOf } from '../../src/lib/server/register/life.ts';
import { touchesOf } from '../../src/lib/server/register/touches.ts';
import { saveFact } from '../../src/lib/server/setup/facts.ts';
import { createItem } from '../../src/lib/server/setup/items.ts';
import { saveRows } from '../../src/lib/server/sheet/drafts.ts';
import { backAnswer, forwardAnswer } from '../traced.ts';
import { brokenInvariants } from './checker.ts';
import { bookTest, findingsOf, ines, makeItems, testDatabase } from './cluster.ts';

/*
 * What is recorded wrongly is put right without breaking anything: the mark stays the same, the old value stays readable,
 * and what stands in the way is named.
 */
const db = testDatabase();
let keys = 0;
const clock = () => new Date('2026-06-01T08:00:00Z');
const now = clock();

const markOf = async (number: string, item?: string) =>
	(
		await db.sql<{ id: string }[]>`
			SELECT k.id FROM mark k JOIN item i ON i.id = k.item_id WHERE k.number = ${number} ${item ? db.sql`AND i.code = ${item}` : db.sql``}`
	)[0].id;
const recorded = async (id: string) =>
	(
		await db.sql<Record<string, string | null>[]>`
			SELECT k.number, l.lot_no AS lot, k.expires_on AS "expiresOn", k.made_on AS "madeOn", k.supplier_lot AS "supplierLot", k.supplier_serial AS "supplierSerial",
				k.supplier_warranty_until AS "supplierWarrantyUntil", k.facts::text AS facts FROM mark k LEFT JOIN mark l ON l.id = k.parent_id WHERE k.id = ${id}`
	)[0];
const fix = (mark: string, field: string, value: string, more: object = {}) =>
	correct(db.sql, ines, { key: `fix-${keys++}`, mark, field, value, reason: 'misread', ...more }, { clock });
const undo = (id: string) => undoEvent(db.sql, ines, { undo: id, key: `undo-${keys++}`, reason: 'it was right' });
const why = async (work: Promise<unknown>): Promise<string> => {
	const e = await work.then(
		() => null,
		(error: unknown) => error
	);
	expect(e).toBeInstanceOf(Problem);
	return (e as Problem).faults.map((f) => f.message).join('\n');
};
const arrive = (item: string, number: object, more: object = {}) => ({
	item,
	qty: '10',
	from: '@supplier',
	to: 'QS/A1',
	...number,
	...more
});
const onHand = async (mark: string) =>
	(
		await db.sql<{ qty: string }[]>`
			SELECT coalesce(trim_scale(sum(qty)), 0)::text AS qty FROM balance WHERE mark_id = ${mark} AND NOT virtual AND qty > 0`
	)[0].qty;

beforeAll(async () => {
	await makeItems(db.sql);
	await createItem(db.sql, 'ines', {
		code: 'KEEPS',
		name: 'Keeps',
		unit: 'kg',
		decimals: 3,
		tracking: 'lot',
		shelfLife: 'P1Y'
	});
	await saveFact(db.sql, 'ines', { code: 'ph', name: 'pH', kind: 'number', decimals: 1, low: '6', high: '8' });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		document: 'PO-1',
		movements: [
			arrive('RAW1', { lot: 'A-1' }, { expiresOn: '2027-03-31', supplierLot: 'THEIRS-1', facts: { ph: '7.0' } }),
			arrive('RAW1', { lot: 'A-2' }, { expiresOn: '2027-04-30' }),
			arrive('RAW1', { lot: 'A-HELD' }),
			arrive('KEEPS', { lot: 'K-1' }, { madeOn: '2026-02-01', expiresOn: '2027-02-01' }),
			...['C-1', 'C-2'].map((serial) => arrive('CELL', { lot: 'CL-1', serial }, { qty: '1' })),
			arrive('CELL', { lot: 'CL-2', serial: 'C-3' }, { qty: '1' })
		]
	});
	await setStatus(db.sql, ines, { key: 'held', act: 'hold', mark: await markOf('A-HELD'), reason: 'for the test' });
	await bookTest(db.sql, {
		kind: 'output',
		at: '2026-03-02T08:00:00Z',
		runs: [{ code: 'MIX-1' }],
		movements: [
			{ item: 'RAW1', lot: 'A-1', qty: '4', from: 'QS/A1', to: '@process', run: 'MIX-1', role: 'use' },
			{
				...{ item: 'GEL', lot: 'G-1', qty: '4', from: '@process', to: 'QS/A1', run: 'MIX-1', role: 'make' },
				expiresOn: '2027-03-31'
			},
			{
				...{ item: 'GEL', lot: 'G-2', qty: '1', from: '@process', to: 'QS/A1', run: 'MIX-1', role: 'make' },
				expiresOn: '2026-12-31'
			}
		]
	});
});

describe('a date', () => {
	it('says what it touches, takes along what has its date from it, and can be corrected again and taken back', async () => {
		const mark = await markOf('A-1');
		await printLabels(db.sql, 'ines', { marks: [mark], symbol: symbols[0], dpi: '300', copies: '2', size: '70 × 35' });
		const sale = await createDocument(db.sql, 'ines', {
			kind: 'sale',
			partner: 'S1',
			place: 'QS',
			lines: [{ item: 'RAW1', qty: '2' }]
		}).catch(async () => {
			await db.owner`UPDATE partner SET kind = 'both'`;
			return createDocument(db.sql, 'ines', {
				kind: 'sale',
				partner: 'S1',
				place: 'QS',
				lines: [{ item: 'RAW1', qty: '2' }]
			});
		});
		const order = (await getOrder(db.sql, sale))!;
		await saveRows(db.sql, 'ines', order, [
			{
				id: crypto.randomUUID(),
				lineId: order.lines[0].id,
				version: 0,
				data: { mark, place: 'QS/A1', qty: '2' }
			}
		]);
		const touches = (await touchesOf(db.sql, mark, 'expiresOn', '', now))!;
		expect(touches).toMatchObject({
			where: ['6 kg at QS/A1'],
			promised: [{ code: sale, what: '2 kg' }],
			shipped: [],
			labels: expect.stringMatching(
				/^2 labels carry what is recorded now, last printed .+\. Print new ones afterwards\.$/
			),
			along: [{ number: 'G-1', belongs: false }],
			faults: []
		});
		const first = await fix(mark, 'expiresOn', '31 Mar 2026', { also: touches.along.map((a) => a.id) });
		expect(await recorded(mark)).toMatchObject({ expiresOn: '2026-03-31' });
		expect(await recorded(await markOf('G-1'))).toMatchObject({ expiresOn: '2026-03-31' });
		expect(await recorded(await markOf('G-2'))).toMatchObject({ expiresOn: '2026-12-31' });
		await fix(mark, 'expiresOn', '');
		expect(await recorded(mark)).toMatchObject({ expiresOn: null });
		expect(await why(undo(first.id))).toMatch(
			/^A-1: expires was changed again by event \d+\. Undo that first, or correct it on its page\.$/
		);
		const [{ id: second }] = await db.sql<{ id: string }[]>`SELECT max(id) AS id FROM event`;
		await undo(second);
		await undo(first.id);
		expect(await recorded(mark)).toMatchObject({ expiresOn: '2027-03-31' });
		expect(await recorded(await markOf('G-1'))).toMatchObject({ expiresOn: '2027-03-31' });
		const { life } = await lifeOf(db.sql, mark, [], 'UTC');
		expect(life.flatMap((e) => (e.change ? [`${e.kind} ${e.change}${e.undone ? ', undone' : ''}`] : []))).toEqual([
			'correct expires: 31 Mar 2027 → 31 Mar 2026, undone',
			'correct expires: 31 Mar 2026 → none, undone',
			'undo expires: none → 31 Mar 2026',
			'undo expires: 31 Mar 2026 → 31 Mar 2027'
		]);
	});
	it('of production takes along the expiry that was worked out from it', async () => {
		const mark = await markOf('K-1');
		const touches = (await touchesOf(db.sql, mark, 'madeOn', '1.3.2026', now))!;
		expect(touches.expiry).toEqual({ from: '1 Feb 2027', to: '1 Mar 2027' });
		await fix(mark, 'madeOn', '1.3.2026', { expiryToo: true });
		expect(await recorded(mark)).toMatchObject({ madeOn: '2026-03-01', expiresOn: '2027-03-01' });
		await fix(mark, 'expiresOn', '2027-03-05');
		expect(await why(fix(mark, 'madeOn', '2026-03-02', { expiryToo: true }))).toBe(
			'The expiry of K-1 was not worked out from this date. Correct it by itself.'
		);
		expect(await why(fix(mark, 'madeOn', '2027-01-01'))).toBe('Made on 1 Jan 2027 lies ahead. Check the date.');
		expect(await why(fix(mark, 'expiresOn', '2026-02-01'))).toBe(
			'It expires on 1 Feb 2026, before it was made. Check the dates.'
		);
	});
	it('of the supplier’s warranty is recorded and put right', async () => {
		const mark = await markOf('A-2');
		await fix(mark, 'supplierWarrantyUntil', '2028-12-31');
		await fix(mark, 'supplierWarrantyUntil', '2029-12-31');
		expect(await recorded(mark)).toMatchObject({ supplierWarrantyUntil: '2029-12-31' });
	});
});

describe('a number', () => {
	it('is another from now on: the old one is found, what was booked keeps it, traces show the new one', async () => {
		const mark = await markOf('A-1');
		const touches = (await touchesOf(db.sql, mark, 'number', 'A-1B', now))!;
		expect(touches.follows).toEqual([
			'A-1 stays findable, and says what it is called now.',
			'What was printed keeps the old number; lists, sheets and traces show the new one.'
		]);
		const { id } = await fix(mark, 'number', 'A-1B');
		expect((await find(db.sql, 'A-1')).hits).toMatchObject([{ label: 'A-1B', detail: 'RAW1, formerly A-1', mark }]);
		const back = (await backAnswer(db.sql, { item: 'GEL', lot: 'G-1' }, {}))!;
		expect(back.marks).toContainEqual({ item: 'RAW1', lot: 'A-1B', serial: null });
		await sealAll(db.sql);
		const entries = await db.sql<
			{ entry: string }[]
		>`SELECT entry FROM ledger_leaf WHERE event_id IS NOT NULL ORDER BY index`;
		const received = entries.map((e) => JSON.parse(e.entry)).find((e) => e.document === 'PO-1');
		expect(received.movements[0].lot).toBe('A-1');
		// It may have another, and have the old one back.
		await fix(mark, 'number', 'A-1C');
		expect(await why(undo(id))).toMatch(/^A-1C: number was changed again by event \d+\./);
		await fix(mark, 'number', 'A-1');
		expect((await find(db.sql, 'A-1')).hits.map((h) => h.detail)).toEqual(['RAW1']);
		expect((await find(db.sql, 'A-1C')).hits).toMatchObject([{ label: 'A-1', detail: 'RAW1, formerly A-1C' }]);
	});
	it('that was printed is not given again to another; one that never was may be', async () => {
		const printed = await markOf('A-1');
		await fix(printed, 'number', 'A-1D');
		expect(await why(fix(await markOf('A-HELD'), 'number', 'A-1'))).toBe(
			'Lot A-1 was the number of A-1D before it was corrected, and what was printed then still carries it. Give another.'
		);
		const receive = (lot: string) =>
			bookTest(db.sql, { kind: 'receipt', partner: 'S1', movements: [arrive('RAW1', { lot })] });
		expect(await why(receive('A-1'))).toContain('Give another.');
		await fix(await markOf('A-2'), 'number', 'A-2B');
		await receive('A-2');
		expect(await why(fix(await markOf('A-2B'), 'number', 'A-1'))).toContain('Give another.');
		await fix(printed, 'number', 'A-1');
		expect(await recorded(printed)).toMatchObject({ number: 'A-1' });
		// Called so for the second time, and printed only then.
		const again = await markOf('A-2B');
		await fix(again, 'number', 'A-7');
		await fix(again, 'number', 'A-2B');
		await printLabels(db.sql, 'ines', { marks: [again], symbol: symbols[0], dpi: '300', copies: '1', size: '70 × 35' });
		await fix(again, 'number', 'A-7');
		expect(await why(receive('A-2B'))).toContain('Lot A-2B was the number of A-7');
		await fix(again, 'number', 'A-2B');
	});
	it('that another has taken meanwhile is not given back', async () => {
		const mark = await markOf('C-3');
		const { id } = await fix(mark, 'number', 'C-3B');
		await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			movements: [arrive('CELL', { lot: 'CL-2', serial: 'C-3' }, { qty: '1' })]
		});
		expect(await why(undo(id))).toBe(
			'C-3B cannot be called C-3 again: that is the number of another now. Correct it to a number of its own.'
		);
	});
	it('of another lot: what is here moves into that one by a run, and both lives stay readable', async () => {
		await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			movements: [
				arrive('RAW2', { lot: 'W-1' }, { expiresOn: '2027-01-31' }),
				arrive('RAW2', { lot: 'W-1' }, { qty: '2.5', to: 'QS/A2' }),
				arrive('RAW2', { lot: 'R-1' }, { qty: '1', expiresOn: '2027-02-28' })
			]
		});
		const [wrong, right] = [await markOf('W-1'), await markOf('R-1')];
		const touches = (await touchesOf(db.sql, wrong, 'number', 'R-1', now))!;
		expect(touches.follows.slice(2)).toEqual([
			'R-1 is another lot of this item: 12.5 kg here move into it. W-1 stays, with its life up to now.',
			'They expire 28 Feb 2027 then, not 31 Jan 2027.'
		]);
		// What was seen is what is done: nobody merges by a slip of time.
		expect(touches.into).toBe(right);
		expect(await why(fix(wrong, 'number', 'R-1', { into: null }))).toBe(
			'R-1 is another lot of RAW2: what is here of W-1 would move into it. Look at what it touches, and save again.'
		);
		expect(await why(fix(wrong, 'number', 'R-9', { into: right }))).toBe(
			'There is no other lot R-9 any more: W-1 would only be called so. Look at what it touches, and save again.'
		);
		const { id, movements } = await fix(wrong, 'number', 'R-1');
		expect(movements).toBe(4);
		expect([await onHand(wrong), await onHand(right)]).toEqual(['0', '13.5']);
		expect((await backAnswer(db.sql, { item: 'RAW2', lot: 'R-1' }, {}))!.marks).toEqual([
			{ item: 'RAW2', lot: 'W-1', serial: null }
		]);
		const forward = (await forwardAnswer(db.sql, { item: 'RAW2', lot: 'W-1' }, {}))!;
		expect(forward.where.map((w) => w.content).sort()).toEqual(['10', '5/2']);
		expect((await lifeOf(db.sql, wrong, [], 'UTC')).life.map((e) => e.did)).toEqual([
			'received from S1',
			'received from S1',
			'corrected: it is R-1',
			'corrected: it is R-1'
		]);
		expect(await why(fix(wrong, 'number', 'R-1'))).toBe(
			'Nothing of W-1 is here to move into R-1. What went out as W-1 stays readable under it; write a note on its page.'
		);
		await undo(id);
		expect([await onHand(wrong), await onHand(right)]).toEqual(['12.5', '1']);
	});
	it('of another lot whose pieces have serials: they belong to that one', async () => {
		const [wrong, right] = [await markOf('CL-1'), await markOf('CL-2')];
		expect((await touchesOf(db.sql, wrong, 'number', 'CL-2', now))!.follows[2]).toBe(
			'CL-2 is another lot of this item: 2 serials move into it. CL-1 stays, with its life up to now.'
		);
		const { id } = await fix(wrong, 'number', 'CL-2');
		expect(await recorded(await markOf('C-1'))).toMatchObject({ lot: 'CL-2' });
		await undo(id);
		expect(await recorded(await markOf('C-1'))).toMatchObject({ lot: 'CL-1' });
		expect(right).not.toBe(wrong);
	});
	it('is refused in words', async () => {
		expect(await why(fix(await markOf('C-1'), 'number', 'C-2'))).toBe(
			'Serial C-2 is another piece of CELL, at QS/A1. Two pieces cannot be made one: check which of the two labels is wrong.'
		);
		expect(await why(fix(await markOf('A-HELD'), 'number', 'A-2'))).toBe(
			'A-HELD is on hold and A-2 is released. Bring both to one status first.'
		);
		expect(await why(fix(await markOf('A-1'), 'number', 'A-1'))).toBe(
			'Number of A-1 is A-1 already. Nothing is corrected.'
		);
		expect(await why(fix(await markOf('A-1'), 'number', ' '))).toBe('Type the number that is right.');
		expect(await why(fix(await markOf('A-1'), 'number', 'A 9'))).toBe(
			'“A 9” has a blank in it. Type each number apart.'
		);
		expect(await why(fix(await markOf('A-1'), 'lot', 'A-9'))).toBe(
			'A lot has no lot of its own. Correct it on its lot’s page.'
		);
		expect(await why(fix(await markOf('A-1'), 'colour', 'red'))).toBe(
			'There is no field colour. Add it in Setup, Extra fields.'
		);
		expect(await why(fix('999999', 'number', 'X'))).toBe(
			'This lot or serial is not known. Look it up in the register.'
		);
		expect(await why(fix(await markOf('A-1'), 'expiresOn', 'soon'))).toContain('soon');
		expect(await why(fix(await markOf('A-1'), 'number', 'X', { reason: '' }))).toBe(
			'Say why, in one line. It is kept in the ledger.'
		);
		expect(await why(fix(await markOf('A-1'), 'expiresOn', '2030-01-01', { also: [await markOf('G-2')] }))).toBe(
			'One of those named did not take its date from A-1. Correct it by itself.'
		);
		expect((await touchesOf(db.sql, await markOf('C-1'), 'number', 'C-2', now))!.faults[0]).toContain('Two pieces');
	});
	it('that looks like its own does not stand in its own way', async () => {
		const mark = await markOf('C-2');
		const booked = await fix(mark, 'number', 'c-2');
		expect(booked.notes).toEqual([]);
		await undo(booked.id);
	});
});

describe('a serial’s lot', () => {
	it('is another one, known or made for it', async () => {
		const mark = await markOf('C-2');
		await fix(mark, 'lot', 'CL-2');
		expect(await recorded(mark)).toMatchObject({ lot: 'CL-2' });
		const held = await markOf('CL-1');
		const { id: hold } = await setStatus(db.sql, ines, { key: 'cl-hold', act: 'hold', mark: held, reason: 'wet' });
		expect((await touchesOf(db.sql, mark, 'lot', 'CL-1', now))!.follows).toEqual([
			'CL-1 is on hold, and C-2 with it then.',
			'It expires on no recorded day then, as its lot does.'
		]);
		await undo(hold);
		expect((await touchesOf(db.sql, mark, 'lot', 'CL-NEW', now))!.follows).toContain(
			'Lot CL-NEW is not known yet and is made.'
		);
		const { id } = await fix(mark, 'lot', 'CL-NEW');
		expect(await recorded(mark)).toMatchObject({ lot: 'CL-NEW' });
		expect((await lifeOf(db.sql, mark, [], 'UTC')).life.map((e) => e.change)).toContain('lot: CL-2 → CL-NEW');
		await undo(id);
		expect(await recorded(mark)).toMatchObject({ lot: 'CL-2' });
	});
	it('is not given to what carries none', async () => {
		await bookTest(db.sql, {
			kind: 'output',
			runs: [{ code: 'M-1', unit: { item: 'METER', serial: 'WM-1' } }],
			movements: [{ item: 'METER', serial: 'WM-1', qty: '1', from: '@process', to: 'QS/A1', run: 'M-1', role: 'make' }]
		});
		expect(await why(fix(await markOf('WM-1'), 'lot', 'X'))).toBe('METER carries no lot. Leave it out.');
	});
});

describe('the supplier’s numbers and the firm’s own fields', () => {
	it('are put right, and taken away where they were never there', async () => {
		const serial = await markOf('C-1');
		const set = await fix(serial, 'supplierSerial', 'SN 77');
		expect(await recorded(serial)).toMatchObject({ supplierSerial: 'SN 77' });
		await undo(set.id);
		expect(await recorded(serial)).toMatchObject({ supplierSerial: null });
		const lot = await markOf('A-1');
		await fix(lot, 'supplierLot', 'THEIRS-7');
		expect((await find(db.sql, 'THEIRS-7')).hits).toMatchObject([{ label: 'A-1' }]);
		await fix(lot, 'supplierLot', '');
		expect(await recorded(lot)).toMatchObject({ supplierLot: null });
	});
	it('a fact goes back to what it was, or to nothing, while others stay', async () => {
		const lot = await markOf('A-1');
		const one = await fix(lot, 'ph', '7.5');
		expect(await recorded(lot)).toMatchObject({ facts: '{"ph": "7.5"}' });
		await undo(one.id);
		expect(await recorded(lot)).toMatchObject({ facts: '{"ph": "7"}' });
		const other = await markOf('A-2B');
		const first = await fix(other, 'ph', '6.5');
		await undo(first.id);
		expect(await recorded(other)).toMatchObject({ facts: '{}' });
		const again = await fix(other, 'ph', '6.6');
		await fix(other, 'ph', '6.7');
		expect(await why(undo(again.id))).toMatch(/^A-2B: a detail was changed again by event \d+\./);
	});
});

describe('undo', () => {
	it('takes back a hold, a receipt with what it changed, and a closing, each once', async () => {
		const mark = await markOf('A-2');
		const held = await setStatus(db.sql, ines, { key: 'hold-2', act: 'hold', mark, reason: 'wet' });
		await undo(held.id);
		expect(await why(undo(held.id))).toMatch(/undid this already, on .+\. Nothing is left to undo\.$/);
		const more = await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			movements: [arrive('RAW1', { lot: 'A-2' }, { supplierLot: 'T-9', expiresOn: '2028-01-31' })]
		});
		expect(await recorded(mark)).toMatchObject({ supplierLot: 'T-9', expiresOn: '2028-01-31' });
		await undo(more.id);
		expect(await recorded(mark)).toMatchObject({ supplierLot: null, expiresOn: null });
		const use = (key: string, closed: boolean) =>
			book(db.sql, ines, {
				...{ key, kind: 'use', at: '2026-03-05T08:00:00Z', runs: [{ code: 'MIX-2', closed }] },
				...(closed
					? {}
					: {
							movements: [
								{
									item: 'RAW1',
									lot: 'A-2',
									qty: '1',
									from: 'QS/A1',
									to: '@process',
									run: 'MIX-2',
									role: 'use' as const
								}
							]
						})
			});
		await use('mix-open', false);
		const closing = await use('mix-closed', true);
		await undo(closing.id);
		await use('mix-more', false);
		// Closed again, by another event.
		await use('mix-closed-again', true);
		expect(await why(use('mix-late', false))).toContain('Run MIX-2 is closed.');
	});
	it('names what took it since, and an adjustment names the event that it mends', async () => {
		const received = await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			key: 'too-many',
			movements: [arrive('RAW3', { lot: 'M-1' })]
		});
		await bookTest(db.sql, {
			kind: 'move',
			at: '2026-03-03T08:00:00Z',
			document: 'PUT-1',
			movements: [{ item: 'RAW3', lot: 'M-1', qty: '4', from: 'QS/A1', to: 'QS/A2' }]
		});
		expect(await why(undo(received.id))).toBe(
			`M-1: 10 came to QS/A1 and 6 are left there. PUT-1 took from it on 3 Mar 2026 08:00 (event ${Number(received.id) + 1}). Undo what took it first, or book an adjustment that names event ${received.id} as the one it mends.`
		);
		const adjust = (mends: string, kind = 'adjust') =>
			book(db.sql, ines, {
				...{ key: `mend-${keys++}`, kind, at: '2026-03-04T08:00:00Z', reason: 'counted again', mends },
				movements: [{ item: 'RAW3', lot: 'M-1', qty: '1', from: 'QS/A1', to: '@adjust' }]
			});
		const mended = await adjust('too-many');
		const [event] = await db.sql<{ mends: string }[]>`SELECT mends FROM event WHERE id = ${mended.id}`;
		expect(event.mends).toBe(received.id);
		expect(await why(adjust('nobody'))).toBe(
			'There is no event with the key nobody. Name the one whose quantity is put right.'
		);
		expect(await why(adjust('too-many', 'scrap'))).toBe(
			'Only an adjustment names an event whose quantity it puts right.'
		);
	});
});

describe('side by side', () => {
	it('of several corrections of one number each is the next of the one before', async () => {
		const mark = await markOf('A-2');
		const values = Array.from({ length: 12 }, (_, i) => `S-${i}`);
		await Promise.all(values.map((v) => fix(mark, 'supplierLot', v)));
		const changes = await db.sql<{ old: string | null; new: string }[]>`
			SELECT old, new FROM mark_change WHERE mark_id = ${mark} AND field = 'supplier_lot' ORDER BY event_id DESC LIMIT 12`;
		changes.forEach((c, i) => expect(c.old).toBe(changes[i + 1]?.new ?? null));
		expect(changes.map((c) => c.new).sort()).toEqual([...values].sort());
	});
	it('of what is moved away while it is merged nothing is lost or doubled', async () => {
		await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			movements: ['L-1', 'L-2'].map((lot) => arrive('RAW2', { lot }, { qty: '100' }))
		});
		const [a, b] = [await markOf('L-1'), await markOf('L-2')];
		const ship = (n: number) =>
			book(db.sql, ines, {
				...{ key: `away-${n}`, kind: 'shipment', at: '2026-03-04T08:00:00Z', partner: 'S1' },
				movements: [{ item: 'RAW2', lot: 'L-1', qty: '5', from: 'QS/A1', to: '@customer' }]
			}).then(
				() => 5,
				(e: Problem) => {
					expect(e.message).toContain('Lot L-1: 0 kg at QS/A1, 5 asked for.');
					return 0;
				}
			);
		const at = '2026-03-05T08:00:00Z';
		const [, ...gone] = await Promise.all([
			fix(a, 'number', 'L-2', { at }),
			...Array.from({ length: 10 }, (_, n) => ship(n))
		]);
		const left = Number(await onHand(a)) + Number(await onHand(b));
		expect(left).toBe(200 - gone.reduce((s, n) => s + n, 0));
		expect(await onHand(a)).toBe('0');
	});
});

it('leaves a ledger that is whole, whoever looks', async () => {
	expect(await brokenInvariants(db.owner)).toEqual([]);
	expect(await findingsOf(db.owner)).toEqual([]);
});
