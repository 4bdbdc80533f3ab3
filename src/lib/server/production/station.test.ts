import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import type { Shown, StationAnswer } from '../../core/pairing/station.ts';
import { cardText } from '../../core/codes/card.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { findPairings } from '../pairing/find.ts';
import { savePattern } from '../numbering/patterns.ts';
import { saveFact } from '../setup/facts.ts';
import { changeItem, createItem, listItems } from '../setup/items.ts';
import { addPlace } from '../setup/places.ts';
import { saveStation, setStationClosed } from '../setup/stations.ts';
import { setStatus } from '../ledger/changes.ts';
import { saveRows } from '../sheet/drafts.ts';
import { sheetState } from '../sheet/state.ts';
import { cardsOf, drawForCards, findMade, printCards } from './cards.ts';
import { putPairs } from './pairs.ts';
import { bookReviewed, handToDesk, reviewOrders, reviewPage, sendBack, takeAsItIs } from './review.ts';
import { findStation, scanAtStation, undoAtStation } from './station.ts';
import { unitOrder } from './units.ts';

const db = testDatabase();
const oskar = { name: 'oskar', role: 'assembly', source: 'screen' } as const;

/** A person at a station: what was scanned stays before them. */
class Bench {
	before: { order: string; serial: string | null } | null = null;
	bin: string | null = null;
	constructor(
		readonly code: string,
		readonly who: typeof oskar | typeof ines = oskar
	) {}
	async scan(text: string, more: { qty?: string; id?: string } = {}): Promise<StationAnswer> {
		const station = await findStation(db.sql, this.code);
		const answer = await scanAtStation(db.sql, this.who, station, {
			id: more.id ?? randomUUID(),
			text,
			before: this.before,
			bin: this.bin,
			qty: more.qty
		});
		const { shown } = answer;
		if (shown) this.before = { order: shown.order, serial: shown.serial };
		this.bin = answer.bin;
		return answer;
	}
	undo = async () => undoAtStation(db.sql, this.who, await findStation(db.sql, this.code), this.before);
}
const order = async (qty: string, more: { review?: boolean; place?: string; item?: string } = {}) => {
	const code = await createDocument(db.sql, 'ines', {
		...{ kind: 'production', place: more.place ?? 'QS/OUT', review: more.review ?? null },
		lines: [{ item: more.item ?? 'WM', qty }]
	});
	const made = await findMade(db.sql, code);
	if (made.made.runMode === 'unit') await drawForCards(db.sql, 'ines', made);
	const { cards } = await cardsOf(db.sql, made);
	const serials = cards.map((c) => c.serial);
	return {
		code,
		serials,
		card: (n: number) => cardText({ order: code, line: 1, serial: serials[n] }, '04012345678901')
	};
};
const left = (shown: Shown | null) => shown!.slots.filter((s) => !s.plain).map((s) => [s.item, s.left]);
let boards = 0;
/** New boards at the line, by their serials. */
async function receive(count: number): Promise<string[]> {
	const list = Array.from({ length: count }, () => `VB-${String(++boards).padStart(4, '0')}`);
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: list.map((serial) => ({ item: 'BOARD', serial, qty: '1', from: '@supplier', to: 'QS/LINE1' }))
	});
	return list;
}

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/LINE1', 'QS/LINE2', 'QS/OUT', 'KN', 'KN/A1'])
		await addPlace(db.sql, 'ines', { code, name: code });
	await savePattern(db.sql, 'ines', {
		code: 'WM',
		name: 'Meters',
		blocks: [
			{ kind: 'text', text: 'WM-' },
			{ kind: 'sequence', digits: 4, reset: 'never' }
		]
	} as never);
	await createItem(db.sql, 'ines', { code: 'BOARD', name: 'Board', unit: 'each', tracking: 'serial' });
	await createItem(db.sql, 'ines', { code: 'CELL', name: 'Cell', unit: 'each', tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'CAP', name: 'Cap', unit: 'each', tracking: 'none' });
	await createItem(db.sql, 'ines', { code: 'OTHER', name: 'Other thing', unit: 'each', tracking: 'serial' });
	await createItem(db.sql, 'ines', {
		...{
			code: 'WM',
			name: 'Water meter',
			unit: 'each',
			tracking: 'serial',
			runMode: 'unit',
			serialPattern: 'WM',
			gtin: '4012345678901'
		},
		parts: [
			{ item: 'BOARD', qty: '1' },
			{ item: 'CELL', qty: '2' },
			{ item: 'CAP', qty: '3' }
		]
	});
	await createItem(db.sql, 'ines', {
		code: 'MIX',
		name: 'Mix',
		unit: 'each',
		tracking: 'lot',
		parts: [{ item: 'CELL', qty: '2' }]
	});
	await saveStation(db.sql, 'ines', { code: 'S1', name: 'Line 1', place: 'QS/LINE1', review: false }, true);
	await saveStation(db.sql, 'ines', { code: 'S2', name: 'Line 2', place: 'QS/LINE2', review: true }, true);
	await saveStation(db.sql, 'ines', { code: 'SK', name: 'Kiel', place: 'KN/A1', review: false }, true);
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		reason: 'C-OLD for the test',
		movements: [
			{ item: 'CELL', lot: 'C-1', qty: '100', from: '@supplier', to: 'QS/LINE1' },
			{ item: 'CELL', lot: 'C-SMALL', qty: '1', from: '@supplier', to: 'QS/LINE1' },
			{ item: 'CELL', lot: 'C-BINS', qty: '10', from: '@supplier', to: 'QS/A1' },
			{ item: 'CELL', lot: 'C-BINS', qty: '10', from: '@supplier', to: 'QS/OUT' },
			{ item: 'CELL', lot: 'C-FAR', qty: '10', from: '@supplier', to: 'KN/A1' },
			{ item: 'CELL', lot: 'C-OLD', qty: '10', from: '@supplier', to: 'QS/LINE1', expiresOn: '2026-01-31' },
			{ item: 'CAP', qty: '200', from: '@supplier', to: 'QS/LINE1' },
			{ item: 'CAP', qty: '200', from: '@supplier', to: 'QS/LINE2' },
			{ item: 'OTHER', serial: 'O-1', qty: '1', from: '@supplier', to: 'QS/LINE1' }
		]
	});
});

describe('a station', () => {
	it('puts parts into a unit in any order, and books it with its unnumbered parts when the last one is in', async () => {
		const { code, card, serials } = await order('2');
		const [board] = await receive(1);
		const bench = new Bench('S1');
		const opened = await bench.scan(card(0));
		expect(opened).toMatchObject({ taken: true, what: 'card', said: `${serials[0]}: 2 of 2 parts are missing.` });
		expect(left(opened.shown)).toEqual([
			['BOARD', '1'],
			['CELL', '2']
		]);
		// Two cells of one lot are one scan.
		expect(left((await bench.scan('C-1')).shown)).toEqual([
			['BOARD', '1'],
			['CELL', '0']
		]);
		const last = await bench.scan(board);
		expect(last).toMatchObject({ taken: true, shown: { state: 'booked' } });
		expect(last.said).toContain(`${serials[0]} is booked`);
		const { rows } = await findPairings(db.sql, { item: 'WM', serial: serials[0] }, undefined, 50);
		expect(rows.map((r) => [r.partItem, r.partSerial ?? r.partLot, r.qty, r.evidence]).sort()).toEqual([
			['BOARD', board, '1', 'scanned'],
			['CAP', null, '3', null],
			['CELL', 'C-1', '2', 'scanned']
		]);
		const [{ place }] = await db.sql<
			{ place: string }[]
		>`SELECT f.code AS place FROM movement m JOIN place f ON f.id = m.from_place JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
			JOIN run r ON r.id = m.run_id WHERE i.code = 'CAP' AND r.code = ${`${code}/${serials[0]}`}`;
		expect(place).toBe('QS/LINE1');
		expect((await getOrder(db.sql, code))!.lines[0].done).toBe('1');
		expect(await bench.scan(card(0))).toMatchObject({
			taken: false,
			said: expect.stringContaining(`${serials[0]} is recorded since`)
		});
	});

	it('says why a part is not taken, and what to do; nothing changes', async () => {
		const { code, card, serials } = await order('3');
		const [a, b] = await receive(2);
		const bench = new Bench('S1');
		expect(await bench.scan(a)).toMatchObject({
			taken: false,
			said: `${a} is no work card. Scan the card of the unit first, then its parts.`
		});
		await bench.scan(card(0));
		await bench.scan(a);
		const said = async (text: string, more: { qty?: string } = {}) => {
			const answer = await bench.scan(text, more);
			expect(answer.taken, answer.said).toBe(false);
			return answer.said;
		};
		expect(await said(a)).toBe(`${a} is in ${serials[0]} already. Scan the next part.`);
		expect(await said(b)).toBe(`Board is complete in ${serials[0]}: 1 of 1 are in. To exchange one, undo it first.`);
		expect(await said('O-1')).toBe(
			`O-1 is Other thing, which is no part of ${serials[0]}. Put it back, and take the right part.`
		);
		expect(await said('C-SMALL')).toBe(
			`Of lot C-SMALL 1 is free at QS/LINE1; 2 go into ${serials[0]}. Give 1, and another lot for the rest.`
		);
		expect(await said('C-1', { qty: '3' })).toContain('3 are more than');
		expect(await said('C-FAR')).toBe('Lot C-FAR stands at KN/A1, not at QS. Transfer it first, or take one from here.');
		expect(await said('C-OLD')).toContain('expired');
		expect(await said('VB-00O1')).toContain('Was it VB-0001 or ');
		expect(await said('C-BINS')).toContain('lies in QS/A1 and QS/OUT. Scan the bin');
		expect(left(await bench.scan('C-SMALL', { qty: '1' }).then((x) => x.shown))).toEqual([
			['BOARD', '0'],
			['CELL', '1']
		]);
		// The bin, then the part.
		expect(await bench.scan('qs/a1')).toMatchObject({ taken: true, what: 'bin', bin: 'QS/A1' });
		await bench.scan('C-BINS');
		const { rows } = await findPairings(db.sql, { item: 'WM', serial: serials[0], partLot: 'C-BINS' }, undefined, 9);
		expect(rows).toHaveLength(1);
		const second = new Bench('S1');
		await second.scan(card(1));
		const inside = await second.scan(a);
		expect(inside).toMatchObject({ taken: false, said: expect.stringContaining(`${a} is inside ${serials[0]} since`) });
		await second.scan(b);
		const third = new Bench('S1');
		await third.scan(card(2));
		expect((await third.scan(b)).said).toMatch(
			new RegExp(`^${b} is inside ${serials[1]} since .* \\(oskar, not booked yet\\)`)
		);
		expect(code).toBeTruthy();
	});

	it('holds what was measured of a part before to its limits', async () => {
		const { card, serials } = await order('1');
		const drift = { code: 'DRIFT', name: 'Drift', kind: 'number', unit: '%', decimals: 2 } as const;
		await saveFact(db.sql, 'ines', { ...drift, per: 'piece' });
		const [board] = await receive(1);
		const measured = ['VB-FAR', 'VB-NEAR'];
		await bookTest(db.sql, {
			kind: 'receipt',
			partner: 'S1',
			movements: measured.map((serial, i) => ({
				...{ item: 'BOARD', serial, qty: '1', from: '@supplier', to: 'QS/LINE1' },
				facts: { DRIFT: i ? '0.3' : '0.72' }
			}))
		});
		await saveFact(db.sql, 'ines', { ...drift, per: 'piece', high: '0.5', outside: 'stop' }, 'DRIFT');
		const rules = async (facts: Record<string, 'required'>) => {
			const [item] = await listItems(db.sql, 'BOARD');
			await changeItem(db.sql, 'ines', 'BOARD', {
				...{ name: item.name, parts: [] },
				rules: item.rules.map((r) => (r.step === 'production use' ? { ...r, facts } : r))
			});
		};
		await rules({ DRIFT: 'required' });
		const bench = new Bench('S1');
		await bench.scan(card(0));
		expect(await bench.scan('VB-FAR')).toMatchObject({
			taken: false,
			said: 'Serial VB-FAR: Drift 0.72 % is outside at most 0.5 %. Put it aside, or measure again.'
		});
		// A reason is given at the desk, not at a station.
		await saveFact(db.sql, 'ines', { ...drift, per: 'piece', high: '0.5', outside: 'reason' }, 'DRIFT');
		expect((await bench.scan('VB-FAR')).said).toContain('Say why it is taken. A station takes no reasons');
		expect(await bench.scan('VB-NEAR')).toMatchObject({ taken: true });
		await rules({});
		expect((await bench.scan(board)).said).toContain(`Board is complete in ${serials[0]}`);
	});

	it('knows a card of another order, site or item, and the order’s own card', async () => {
		const { code, serials } = await order('1');
		const far = await order('1', { place: 'KN/A1' });
		const batch = await order('5', { item: 'MIX' });
		const bench = new Bench('S1');
		expect((await bench.scan(far.card(0))).said).toBe(
			`${far.code} is made at KN, and Line 1 stands at QS. Bring the card there.`
		);
		expect((await bench.scan(cardText({ order: code, line: 1, serial: far.serials[0] }, null))).said).toBe(
			`${far.serials[0]} was drawn for ${far.code}, not for ${code}. Scan the card of that order.`
		);
		expect((await bench.scan(cardText({ order: 'MO-NONE', line: 1, serial: 'X' }, null))).said).toContain(
			'There is no order MO-NONE'
		);
		expect((await bench.scan(cardText({ order: code, line: 1, serial: null }, null))).said).toBe(
			'Water meter takes its parts unit by unit, so the order’s card records none. Scan the card of the unit.'
		);
		// The order's card of a batch takes what is used for all of it.
		expect(await bench.scan(cardText({ order: batch.code, line: 1, serial: null }, null))).toMatchObject({
			taken: true,
			shown: { serial: null }
		});
		expect(await bench.scan('C-1')).toMatchObject({
			taken: true,
			said: expect.stringContaining(`into ${batch.code}: Cell`)
		});
		// A finished serial that was drawn stands for its card.
		expect(await bench.scan(serials[0])).toMatchObject({ taken: true, what: 'card' });
		await setStationClosed(db.sql, 'ines', 'SK', true);
		await expect(findStation(db.sql, 'SK')).rejects.toThrow('There is no station SK');
	});

	it('takes back what was put in last, takes the same scan once, and keeps what two people do apart', async () => {
		const { card, serials } = await order('2');
		const [a, b] = await receive(2);
		const one = new Bench('S2');
		const two = new Bench('S2', ines);
		await Promise.all([one.scan(card(0)), two.scan(card(1))]);
		const id = randomUUID();
		const [first, again] = await Promise.all([one.scan(a, { id }), one.scan(a, { id })]);
		expect([first.taken, again.said]).toEqual([true, first.said]);
		await two.scan(b);
		expect(await one.undo()).toMatchObject({ said: `${a} is taken back out of ${serials[0]}.` });
		await expect(one.undo()).rejects.toThrow('Nothing was put in here');
		// Both take the same board in the same second: one of them has it.
		const both = await Promise.all([one.scan(a), new Bench('S2', ines).scan(card(0)).then(() => two.scan(a))]);
		expect(both.filter((x) => x.taken)).toHaveLength(1);
		await one.scan('C-1');
		expect((await one.scan(card(0))).said).toBe(`${serials[0]} has all its parts and waits for its review.`);
	});
});

describe('the review', () => {
	it('shows every pairing with who, when and how; sends single units back; books the rest in one act', async () => {
		const { code, card, serials } = await order('3', { review: true });
		const list = await receive(3);
		for (const n of [0, 1, 2]) {
			const bench = new Bench('S1', n ? oskar : ines);
			await bench.scan(card(n));
			await bench.scan(list[n]);
			const last = await bench.scan('C-1');
			expect(last.said).toContain('waits for its review');
		}
		expect((await reviewOrders(db.sql)).find((o) => o.code === code)).toMatchObject({ ready: 3, review: 3 });
		const page = await reviewPage(db.sql, { order: code });
		expect(page.total).toBe(3);
		expect(page.units.map((u) => [u.serial, u.state, u.stops])).toEqual(serials.map((s) => [s, 'ready', []]));
		expect(page.units[0].parts).toMatchObject([
			{ item: 'BOARD', number: list[0], evidence: 'scanned', by: 'ines' },
			{ item: 'CELL', number: 'C-1', qty: '2' }
		]);
		expect(page.units[0].used).toMatchObject([{ itemName: 'Cap', qty: '3', from: 'QS/LINE1', short: '0' }]);
		await sendBack(db.sql, ines, { order: code, serials: [serials[1]], why: 'The board is upside down' });
		// Whoever may not review books nothing of it.
		const [refused] = await bookReviewed(db.sql, oskar, { key: randomUUID(), units: [{ order: code }] });
		expect(refused).toMatchObject({
			units: 0,
			faults: [{ message: expect.stringContaining('No unit of it is ready') }]
		});
		const key = randomUUID();
		const booked = await bookReviewed(db.sql, ines, { key, units: [{ order: code }] });
		expect(booked).toMatchObject([{ order: code, units: 2, faults: [] }]);
		expect(await bookReviewed(db.sql, ines, { key, units: [{ order: code }] })).toMatchObject([
			{ units: 2, event: booked[0].event }
		]);
		const [{ note }] = await db.sql<{ note: string }[]>`SELECT note FROM event WHERE id = ${booked[0].event}`;
		expect(note).toBe('Parts put in by ines, oskar.');
		// What was sent back says so at its card, and is ready again after something in it was changed.
		const bench = new Bench('S1');
		const back = await bench.scan(card(1));
		expect(back.said).toBe(`${serials[1]} was sent back: The board is upside down`);
		await bench.undo();
		expect((await bench.scan('C-1')).said).toContain('waits for its review');
		await sendBack(db.sql, ines, { order: code, serials: [serials[1]], why: 'Look again' });
		await takeAsItIs(db.sql, ines, code, serials[1]);
		await bookReviewed(db.sql, ines, { key: randomUUID(), units: [{ order: code, serials: [serials[1]] }] });
		expect((await getOrder(db.sql, code))!.closedAt).not.toBeNull();
		expect((await new Bench('S1').scan(card(0))).said).toContain(`${code} is closed since`);
	});
	it('names the unit that cannot be booked, and books nothing then; a held part is seen before', async () => {
		const { code, card, serials } = await order('2', { review: true });
		const list = await receive(2);
		for (const n of [0, 1]) {
			const bench = new Bench('S1');
			await bench.scan(card(n));
			await bench.scan(list[n]);
			await bench.scan('C-1');
		}
		const [{ id }] = await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE serial_no = ${list[1]}`;
		await setStatus(db.sql, ines, { key: randomUUID(), act: 'hold', mark: id, reason: 'Burnt' });
		const page = await reviewPage(db.sql, { order: code });
		expect(page.units[1].stops[0].message).toContain('on hold');
		const [all] = await bookReviewed(db.sql, ines, { key: randomUUID(), units: [{ order: code }] });
		expect(all.faults[0].message).toContain(serials[1]);
		expect(all.units).toBe(0);
		// What asks for a review is not taken past it.
		await expect(handToDesk(db.sql, oskar, code, serials[1])).rejects.toThrow('Only a coordinator can review units.');
		// Handed to the desk, it is a row of the order's sheet with its parts.
		await handToDesk(db.sql, ines, code, serials[1]);
		const sheet = await sheetState(db.sql, code);
		expect(sheet.lines[0].rows.map((r) => r.serial)).toEqual([serials[1]]);
		expect(
			sheet.lines.flatMap((l) => l.cells.flatMap((c) => c.picks.filter((p) => p.id).map((p) => [c.unit, p.number])))
		).toEqual([
			[serials[1], list[1]],
			[serials[1], 'C-1']
		]);
		expect((await new Bench('S1').scan(card(1))).said).toContain('is being entered at the desk');
		expect(await bookReviewed(db.sql, ines, { key: randomUUID(), units: [{ order: code }] })).toMatchObject([
			{ units: 1 }
		]);
	});
	it('a unit whose unnumbered parts are short waits, says so, and goes when its card is scanned again', async () => {
		await saveStation(db.sql, 'ines', { code: 'S3', name: 'Line 3', place: 'QS/OUT', review: false }, true);
		const { card, serials } = await order('1');
		const [board] = await receive(1);
		const bench = new Bench('S3');
		await bench.scan(card(0));
		await bench.scan(board);
		const last = await bench.scan('C-1');
		expect(last.said).toContain('Cap: 3 too little at QS/OUT. Move some there');
		await bookTest(db.sql, { kind: 'move', movements: [{ item: 'CAP', qty: '3', from: 'QS/LINE1', to: 'QS/OUT' }] });
		expect((await bench.scan(card(0))).said).toContain(`${serials[0]} is booked`);
	});
});

describe('at the desk', () => {
	it('pairs go in by hand and by a table, tried first; what is refused says why and the rest goes in', async () => {
		const { code, serials } = await order('2');
		const list = await receive(2);
		const rows = [
			{ unit: serials[0], part: list[0] },
			{ unit: serials[0], part: 'C-1', qty: '2' },
			{ unit: serials[1], part: list[0] },
			{ unit: serials[1], part: 'NOT-1' },
			{ unit: '', part: list[1] }
		];
		const looked = await putPairs(db.sql, oskar, code, { rows, preview: true });
		expect(looked.rows.map((r) => r.taken)).toEqual([true, true, false, false, false]);
		expect(looked.rows[2].said).toContain(`${list[0]} is inside ${serials[0]}`);
		expect((await reviewPage(db.sql, { order: code })).total).toBe(0);
		expect(await putPairs(db.sql, oskar, code, { rows })).toMatchObject({ ready: [serials[0]] });
		const page = await reviewPage(db.sql, { order: code });
		expect(page.units.map((u) => [u.serial, u.parts.map((p) => p.evidence)])).toEqual([
			[serials[0], ['entered', 'entered']]
		]);
		expect(
			await bookReviewed(db.sql, oskar, { key: randomUUID(), units: [{ order: code, serials: [serials[0]] }] })
		).toMatchObject([{ units: 1 }]);
	});
	it('what is at a station is not booked away by the sheet, nor entered there too', async () => {
		const { code, card, serials } = await order('2');
		const list = await receive(2);
		const bench = new Bench('S1');
		await bench.scan(card(0));
		await bench.scan(list[0]);
		const made = (await unitOrder(db.sql, code))!;
		await saveRows(db.sql, 'ines', { id: made.id, code }, [
			{ id: randomUUID(), lineId: made.made.id, data: { serial: serials[0], count: 2 }, version: 0 }
		]);
		const sheet = await sheetState(db.sql, code);
		expect(sheet.missing.map((m) => m.message).join()).toContain(`${serials[0]} is being put together at a station`);
		expect(sheet.ready).toBe(false);
	});
	it('cards are drawn with their serials, printed and counted; more than planned when asked', async () => {
		const { code, serials } = await order('2');
		const made = await findMade(db.sql, code);
		const pdf = await printCards(db.sql, 'ines', made, { own: true, serials });
		expect(Buffer.from(pdf).subarray(0, 5).toString()).toBe('%PDF-');
		await printCards(db.sql, 'ines', made, { own: false, serials: [serials[0]] });
		expect(await drawForCards(db.sql, 'ines', made)).toBe(0);
		expect(await drawForCards(db.sql, 'ines', made, 1)).toBe(1);
		const { own, cards } = await cardsOf(db.sql, made);
		expect([own, cards.map((c) => c.printed)]).toEqual([1, [2, 1, 0]]);
		await expect(printCards(db.sql, 'ines', made, { own: false, serials: ['X-1'] })).rejects.toThrow('X-1 is no unit');
	});
	it('cards that take long say which is drawn, and are not counted when they are stopped', async () => {
		const { code, serials } = await order('2');
		const made = await findMade(db.sql, code);
		const said: string[] = [];
		await printCards(db.sql, 'ines', made, { own: false, serials }, { said: (what) => said.push(what) });
		expect(said).toEqual(['Drawing card 1 of 2', 'Laying out 2 cards']);
		const stopped = printCards(db.sql, 'ines', made, { own: true, serials }, { stop: AbortSignal.abort() });
		await expect(stopped).rejects.toThrow('It was stopped.');
		const { own, cards } = await cardsOf(db.sql, made);
		expect([own, cards.map((c) => c.printed)]).toEqual([0, [1, 1]]);
	});
});

it('the ledger holds after all of it', async () => {
	expect(await findingsOf(db.sql)).toEqual([]);
});
