import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { HOLDING } from '../../core/document/kinds.ts';
import { isNamed, notLookedAt, statesIn } from '../../core/sheet/entered.ts';
import { pickState, type Mode } from '../../core/sheet/sheet.ts';
import { walkOf } from '../../core/sheet/walk.ts';
import { closeShort } from '../document/close.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace, setPlaceUse } from '../setup/places.ts';

import { addJob } from '../setup/jobs.ts';
import { addReason } from '../setup/reasons.ts';
import { saveFirm } from '../setup/firm.ts';
import { onHand } from '../marks/onhand.ts';
import { removeRows, saveRows } from './drafts.ts';
import { undoScan } from './scan.ts';
import { bookSheet, sheetState } from './state.ts';
import { takeScan } from '../../../../tests/db/sheets.ts';

const db = testDatabase();
const order = async (code: string) => (await getOrder(db.sql, code))!;
const sale = (item: string, qty: string, place = 'QS') =>
	createDocument(db.sql, 'ines', { kind: 'sale', partner: 'C1', place, lines: [{ item, qty }] });
const sheet = (code: string, mode: Mode = 'both') => sheetState(db.sql, code, mode);
const picks = async (code: string, mode: Mode = 'both') =>
	(await sheet(code, mode)).lines[0].cells.flatMap((c) => c.picks.map((p) => `${p.number} ${p.qty} ${pickState(p)}`));
const scan = async (code: string, text: string, mode: Mode = 'both') =>
	takeScan(db.sql, 'ines', await order(code), { id: randomUUID(), text }, mode);
const markOf = async (number: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`)[0].id;
async function choose(code: string, number: string, more: object = {}): Promise<string> {
	const of = await order(code);
	const data = { mark: await markOf(number), place: 'QS/A1', qty: '1', ...more };
	const id = randomUUID();
	await saveRows(db.sql, 'ines', of, [{ id, lineId: of.lines[0].id, version: 0, data }]);
	return id;
}
const press = async (code: string, more: { named?: true; mode?: Mode } = {}) =>
	bookSheet(db.sql, ines, code, { key: randomUUID(), stamp: (await sheet(code, more.mode)).stamp, ...more });
const gone = async (code: string) =>
	(
		await db.sql<{ n: string }[]>`
			SELECT k.number || ' ' || trim_scale(m.qty) || ' ' || m.evidence AS n FROM movement m JOIN event e ON e.id = m.event_id AND e.document = ${code} JOIN mark k ON k.id = m.mark_id ORDER BY m.id`
	).map((r) => r.n);

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'ND', 'ND/B1', 'ND/OUT']) await addPlace(db.sql, 'ines', { code, name: code });
	await setPlaceUse(db.sql, 'ines', 'ND/OUT', 'staging', true);
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'Customer', kind: 'customer' });
	await addPartner(db.sql, 'ines', { code: 'S1', name: 'Supplier', kind: 'supplier' });
	await addJob(db.sql, 'ines', { code: 'LAB', name: 'Laboratory', kind: 'department' });
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 3, tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'serial' });
	const cell = (n: number, to = 'QS/A1') => ({ item: 'CELL', serial: `C-${n}`, qty: '1', from: '@supplier', to });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [
			...Array.from({ length: 30 }, (_, i) => cell(i + 100)),
			...Array.from({ length: 6 }, (_, i) => cell(i + 200, 'ND/B1')),
			{ item: 'GEL', lot: 'G-1', qty: '10', from: '@supplier', to: 'QS/A1' },
			{ item: 'GEL', lot: 'G-2', qty: '10', from: '@supplier', to: 'QS/A1' }
		]
	});
});

describe('the states of a pick', () => {
	it('untouched all of it is suggested, and nothing is picked', async () => {
		const { lines } = await sheet(await sale('CELL', '3'));
		expect(statesIn(lines[0].cells)).toEqual({ suggested: '3', chosen: '0', picked: '0' });
		expect(notLookedAt('sale', lines)).toMatchObject([{ qty: '3' }]);
		expect(isNamed(lines)).toBe(false);
		expect(walkOf(lines).map((w) => w.state)).toEqual(['suggested']);
	});

	it('what the office names is to be fetched, what is scanned or confirmed is picked, the rest stays suggested', async () => {
		const code = await sale('CELL', '4');
		await choose(code, 'C-110');
		await scan(code, 'C-111');
		await choose(code, 'C-112', { confirmed: true });
		const left = await picks(code);
		expect(left.slice(0, 3)).toEqual(['C-110 1 chosen', 'C-111 1 picked', 'C-112 1 picked']);
		expect(left[3]).toMatch(/ 1 suggested$/);
		// The chosen one scanned is picked.
		expect(await scan(code, 'C-110')).toMatchObject({ taken: true, said: expect.stringContaining('3 of 4') });
		expect((await picks(code))[0]).toBe('C-110 1 picked');
	});

	it('what is scanned goes in place of what was only chosen, never of what is picked; and back when it is undone', async () => {
		const code = await sale('CELL', '2');
		await choose(code, 'C-113');
		await choose(code, 'C-114');
		const id = randomUUID();
		const swapped = await takeScan(db.sql, 'ines', await order(code), { id, text: 'C-115' });
		expect(swapped).toMatchObject({ taken: true, said: expect.stringContaining('instead') });
		expect(await picks(code)).toEqual(['C-113 1 chosen', 'C-115 1 picked']);
		await undoScan(db.sql, 'ines', await order(code), id);
		expect(await picks(code)).toEqual(['C-113 1 chosen', 'C-114 1 chosen']);
		await scan(code, 'C-113');
		await scan(code, 'C-114');
		// All of it is picked: one more is one too many, and is said.
		await scan(code, 'C-116');
		expect((await sheet(code)).missing.map((m) => m.code)).toContain('more than ordered');
	});

	it('only what is named goes where that is said, the rest stays on the order; all of it where somebody says as suggested', async () => {
		const code = await sale('CELL', '3');
		await scan(code, 'C-120');
		await press(code, { named: true });
		expect(await gone(code)).toEqual(['C-120 1 scanned']);
		await press(code);
		expect((await gone(code)).slice(1).map((g) => g.split(' ')[2])).toEqual(['accepted', 'accepted']);
	});

	it('a sheet that changed since it was seen books nothing, also where only what is named is to go', async () => {
		const code = await sale('CELL', '2');
		const { stamp } = await sheet(code);
		await scan(code, 'C-121');
		const old = bookSheet(db.sql, ines, code, { key: randomUUID(), stamp, named: true });
		await expect(old).rejects.toThrow('The sheet changed');
		expect(await gone(code)).toEqual([]);
	});

	it('what waits where it was picked to is picked: shipping it asks nothing', async () => {
		const code = await sale('CELL', '2', 'ND');
		await scan(code, 'C-200', 'use');
		await scan(code, 'C-201', 'use');
		await press(code, { named: true, mode: 'use' });
		const { lines, missing } = await sheet(code, 'output');
		expect([statesIn(lines[0].cells).picked, missing]).toEqual(['2', []]);
		expect(notLookedAt('sale', lines)).toEqual([]);
	});

	it('a scanned lot takes what is still needed; what of it was said is not suggested again', async () => {
		const code = await sale('GEL', '8');
		await scan(code, 'G-2');
		expect(await picks(code)).toEqual(['G-2 8 picked']);
		const [row] = (await sheet(code)).lines[0].cells[0].picks;
		await saveRows(db.sql, 'ines', await order(code), [
			{
				...{ id: row.id, lineId: (await order(code)).lines[0].id, version: row.version },
				data: { mark: row.mark, place: row.place, qty: '3' }
			}
		] as never);
		expect(await picks(code)).toEqual(['G-2 3 picked', 'G-1 5 suggested']);
	});
});

describe('a row', () => {
	const held = async (number: string, but = '0') => {
		const [{ item }] = await db.sql<{ item: string }[]>`SELECT item_id AS item FROM mark WHERE number = ${number}`;
		const there = (await onHand(db.sql, [item], but, { site: 'QS' })).find((s) => s.number === number);
		return there?.promisedTo ?? null;
	};
	const made = (kind: string) =>
		createDocument(db.sql, 'ines', {
			...{ kind, place: 'QS', lines: [{ item: 'CELL', qty: '2' }] },
			...(kind === 'sale' ? { partner: 'C1' } : {}),
			...(kind === 'issue' ? { job: 'LAB' } : {}),
			...(kind === 'transfer' ? { to: 'ND/B1' } : {}),
			...(kind === 'adjust-out' ? { reason: 'Gone' } : {}),
			...(kind === 'supplier-return' ? { partner: 'S1', reason: 'Wrong' } : {})
		} as never);
	beforeAll(async () => {
		await addReason(db.sql, 'ines', { name: 'Gone', act: 'take out' });
		await addReason(db.sql, 'ines', { name: 'Wrong', act: 'send back' });
	});

	it.each(['sale', 'issue', 'transfer', 'adjust-out', 'supplier-return'] as const)(
		'of a %s holds its number, or not',
		async (kind) => {
			const code = await made(kind);
			await choose(code, 'C-125');
			const says = HOLDING.includes(kind) ? `promised to ${code}` : null;
			expect(await held('C-125')).toBe(says);
			expect(await held('C-125', (await order(code)).id)).toBeNull();
			await db.sql`DELETE FROM draft_row`;
			expect(await held('C-125')).toBeNull();
		}
	);

	it('holds it until it is removed, its order closed, or so many days old as the firm says', async () => {
		const code = await made('sale');
		await choose(code, 'C-126');
		const others = await sale('CELL', '30');
		expect((await sheet(others)).lines[0].leftOut).toMatchObject([
			{ number: 'C-126', reason: 'promised', message: `promised to ${code}` }
		]);
		const age = (days: number) =>
			db.sql`UPDATE draft_row SET changed_at = now() - make_interval(days => ${days}, mins => 1)`;
		await age(13);
		expect(await held('C-126')).toBe(`promised to ${code}`);
		await age(14);
		expect(await held('C-126')).toBeNull();
		await saveFirm(db.sql, 'ines', { holdDays: '30' });
		expect(await held('C-126')).toBe(`promised to ${code}`);
		await closeShort(db.sql, ines, others, { key: randomUUID(), reason: 'not any more' });
		const [{ id }] = (await sheet(code)).lines[0].cells[0].picks;
		await removeRows(db.sql, await order(code), [id]);
		expect(await held('C-126')).toBeNull();
	});

	it('is found by its mark', async () => {
		const plan = await db.sql.begin(async (tx) => {
			await tx`SET LOCAL enable_seqscan = off`;
			return tx<{ 'QUERY PLAN': string }[]>`EXPLAIN SELECT * FROM held_row WHERE mark = ANY(ARRAY['1', '2', '3'])`;
		});
		expect(plan.map((r) => r['QUERY PLAN']).join('\n')).toContain('draft_row_mark');
	});

	it('and the ledger holds', async () => expect(await findingsOf(db.sql)).toEqual([]));
});
