import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { words } from '../../../../tests/pdf.ts';
import { addDuration, showDay } from '../../core/dates/dates.ts';
import { Problem } from '../../core/problem/problem.ts';
import { numbersToCome, progressOf } from '../../core/sheet/progress.ts';
import { createDocument } from '../document/create.ts';
import { note } from '../document/noted.ts';
import { getOrder } from '../document/orders.ts';
import { makePromise, promisesTo } from '../document/promises.ts';
import { undoEvent } from '../document/undo.ts';
import { setStatus } from '../ledger/changes.ts';
import { markPage } from '../register/mark.ts';
import { saveFirm } from '../setup/firm.ts';
import { createItem } from '../setup/items.ts';
import { addPartner, addPlace, setPlaceUse } from '../setup/places.ts';
import { bookSheet, sheetState } from '../sheet/state.ts';
import { shippingPaper, termsPaper } from './packing.ts';
import { nextSale, setAgreed } from './sale.ts';
import { sign } from './signature.ts';
import { swap } from './swap.ts';
import { putBack } from './putback.ts';
import { closeShort } from '../document/close.ts';
import { takeScan } from '../../../../tests/db/sheets.ts';

const db = testDatabase();
const auditor = { name: 'audra', role: 'auditor', source: 'screen' } as const;
const order = async (code: string) => (await getOrder(db.sql, code))!;
const sheet = (code: string) => sheetState(db.sql, code);
const scan = async (code: string, text: string) =>
	takeScan(db.sql, 'ines', await order(code), { id: randomUUID(), text });
const press = async (code: string, reason?: string) =>
	bookSheet(db.sql, ines, code, { key: randomUUID(), stamp: (await sheet(code)).stamp, reason });
const markOf = async (number: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`)[0].id;
const where = async (number: string) =>
	(
		await db.sql<{ at: string }[]>`
			SELECT p.code || ' ' || trim_scale(b.qty) AS at FROM balance b JOIN mark k ON k.id = b.mark_id AND k.number = ${number} JOIN place p ON p.id = b.place_id
			WHERE b.qty > 0 AND NOT b.virtual ORDER BY p.code`
	).map((r) => r.at);
const refused = async (act: Promise<unknown>) => {
	const e = await act.catch((error: unknown) => error);
	expect(e).toBeInstanceOf(Problem);
	return (e as Problem).faults.map((f) => f.message).join(' ');
};
const counter = (more: object = {}) =>
	createDocument(db.sql, 'ines', { kind: 'counter', place: 'ND', lines: [], ...more });
const sale = (item: string, qty: string, line: object = {}) =>
	createDocument(db.sql, 'ines', { kind: 'sale', partner: 'C1', place: 'ND', lines: [{ item, qty, ...line }] });
const picks = async (code: string) =>
	(await sheet(code)).lines.flatMap((l) =>
		l.cells.flatMap((c) => c.picks.flatMap((p) => (p.qty === '0' ? [] : [`${p.number} ${p.place} ${p.qty}`])))
	);
const MONTH = addDuration(new Date().toISOString().slice(0, 10), 'P30D');
const drawn = [
	Array.from({ length: 20 }, (_, i) => ({ x: 20 + i * 9, y: 60 + 30 * Math.sin(i) })),
	[
		{ x: 30, y: 140 },
		{ x: 210, y: 120 }
	]
];
const signed = async (code: string, more: object) =>
	sign(db.sql, ines, await order(code), { signer: 'Ada Brook', strokes: drawn, ...more });
const swapped = async (
	code: string,
	out: string,
	into: string,
	place: { out?: string; in: string },
	more: object = {}
) => {
	const o = await order(code);
	return swap(db.sql, ines, o, {
		...{ key: randomUUID(), line: o.lines[0].id, ...more },
		...{ out: { mark: await markOf(out), place: place.out ?? '' }, in: { mark: await markOf(into), place: place.in } }
	});
};

beforeAll(async () => {
	for (const code of ['ND', 'ND/B1', 'ND/B2', 'ND/OUT', 'QS', 'QS/A1', 'QS/OUT'])
		await addPlace(db.sql, 'ines', { code, name: code });
	await addPartner(db.sql, 'ines', { code: 'C1', name: 'Carraway Pools', kind: 'customer' });
	await addPartner(db.sql, 'ines', { code: 'C2', name: 'Upper Lindow', kind: 'customer' });
	await addPartner(db.sql, 'ines', { code: 'SUP', name: 'Supplier', kind: 'supplier' });
	await createItem(db.sql, 'ines', {
		code: 'METER',
		name: 'Meter',
		unit: 'each',
		tracking: 'serial',
		warranty: 'P24M',
		gtin: '04012345000016'
	});
	await createItem(db.sql, 'ines', { code: 'BOTTLE', name: 'Bottle', unit: 'each', tracking: 'lot' });
	await createItem(db.sql, 'ines', {
		code: 'CAP',
		name: 'Cap',
		unit: 'each',
		tracking: 'none',
		gtin: '04012345000023'
	});
	const at = (to: string) => ({ from: '@supplier', to });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'SUP',
		movements: [
			...Array.from({ length: 30 }, (_, i) => ({ item: 'METER', serial: `M-${i + 1}`, qty: '1', ...at('ND/B1') })),
			{ item: 'METER', serial: 'M-QS', qty: '1', ...at('QS/A1') },
			{ item: 'BOTTLE', lot: 'B-1', qty: '40', ...at('ND/B2') },
			{ item: 'BOTTLE', lot: 'B-2', qty: '40', ...at('ND/B2') },
			{ item: 'CAP', qty: '100', ...at('ND/B2') }
		]
	});
});

describe('over the counter', () => {
	it('three scans and one press; found again by its number, with its note', async () => {
		const code = await counter();
		for (const n of ['M-1', 'M-2', 'M-3']) expect(await scan(code, n)).toMatchObject({ taken: true });
		expect((await sheet(code)).lines).toMatchObject([{ item: 'METER', qty: '3', entered: '3' }]);
		const { id } = await press(code);
		expect(await order(code)).toMatchObject({
			closedAt: expect.any(String),
			partner: null,
			lines: [{ qty: '3', done: '3' }]
		});
		const page = (await markPage(db.sql, await markOf('M-2')))!;
		expect(page.sold).toEqual({ order: code, kind: 'counter', event: id });
		expect(page.where).toMatchObject([{ place: '@customer', qty: '1' }]);
		const text = await words((await shippingPaper(db.sql, 'ines', code, id, 'delivery note'))!);
		for (const says of ['Delivery note', 'M-1', 'M-3', 'Warranty until', 'whoever took it'])
			expect(text).toContain(says);
	});
	it('takes lots by the piece or the quantity of the code, and what carries no number by its item', async () => {
		const code = await counter({ partner: 'C1' });
		await scan(code, 'B-1');
		await scan(code, 'B-1');
		await scan(code, 'CAP');
		await scan(code, '0104012345000023');
		expect(await picks(code)).toEqual(['B-1 ND/B2 2', 'CAP ND/B2 2']);
		await press(code);
		expect(await where('B-1')).toEqual(['ND/B2 38']);
	});
	it('refuses what is not free here: elsewhere, held, sold, promised, scanned already, unknown', async () => {
		const code = await counter();
		const says = async (text: string) => {
			const { taken, said } = await scan(code, text);
			expect(taken).toBe(false);
			return said;
		};
		expect(await says('M-QS')).toBe(
			'M-QS is at QS/A1, and this counter is at ND. Move it here first, or sell it there.'
		);
		expect(await says('M-1')).toContain('M-1 is not on hand');
		await setStatus(db.sql, ines, { key: randomUUID(), act: 'hold', mark: await markOf('M-4'), reason: 'Scratched' });
		expect(await says('M-4')).toContain('M-4 is on hold and stays here');
		const other = await sale('METER', '1');
		await makePromise(db.sql, ines, {
			key: randomUUID(),
			order: other,
			line: 1,
			item: 'METER',
			serial: 'M-5',
			qty: '1'
		});
		expect(await says('M-5')).toContain(`promised to ${other}`);
		expect(await says('NO-SUCH')).toContain('No lot or serial is called NO-SUCH');
		await scan(code, 'M-6');
		expect(await says('M-6')).toContain('in this sheet already');
		expect((await sheet(code)).lines.map((l) => l.qty)).toEqual(['1']);
	});
	it('takes none of what was picked for an order, where more of it lies beside', async () => {
		await setPlaceUse(db.sql, 'ines', 'ND/OUT', 'staging', true);
		const waiting = await createDocument(db.sql, 'ines', {
			...{ kind: 'sale', partner: 'C1', place: 'ND', lines: [{ item: 'BOTTLE', qty: '3' }] }
		});
		const { stamp, lines } = await sheetState(db.sql, waiting, 'use');
		const lot = lines[0].cells[0].picks[0].number;
		await bookSheet(db.sql, ines, waiting, { key: randomUUID(), stamp, mode: 'use' });
		const code = await counter();
		await scan(code, lot);
		expect(await picks(code)).toEqual([`${lot} ND/B2 1`]);
		await putBack(db.sql, ines, waiting, { key: randomUUID() });
		await closeShort(db.sql, ines, waiting, { key: randomUUID(), reason: 'not wanted' });
		await setPlaceUse(db.sql, 'ines', 'ND/OUT', 'staging', false);
	});
	it('two counters that sell the same piece: one gets it', async () => {
		const [a, b] = [await counter(), await counter()];
		await scan(a, 'M-7');
		// What one has in hand the other is told of.
		await scan(b, 'M-7');
		const [first, second] = await Promise.allSettled([press(a, 'at the counter'), press(b, 'at the counter')]);
		expect([first.status, second.status].filter((s) => s === 'fulfilled')).toHaveLength(1);
		expect(await where('M-7')).toEqual([]);
	});
	it('the next sale is one that nothing is entered in yet, or a new one', async () => {
		const make = () => counter();
		const code = await nextSale(db.sql, 'ines', 'ND', make);
		expect(await nextSale(db.sql, 'ines', 'ND', make)).toBe(code);
		await scan(code, 'M-8');
		expect(await nextSale(db.sql, 'ines', 'ND', make)).not.toBe(code);
	});
	it('whom it is for may be said until it has gone, and only a customer', async () => {
		const code = await counter();
		await scan(code, 'M-9');
		await setAgreed(db.sql, ines, await order(code), { partner: 'C2' });
		expect((await sheet(code)).partnerName).toBe('Upper Lindow');
		expect(await refused(setAgreed(db.sql, ines, await order(code), { partner: 'SUP' }))).toContain(
			'There is no customer SUP'
		);
		await press(code);
		expect(await refused(setAgreed(db.sql, ines, await order(code), { partner: 'C1' }))).toContain(
			'has gone to Upper Lindow'
		);
		await expect(setAgreed(db.sql, auditor, await order(code), { partner: '' })).rejects.toThrow('Only a coordinator');
	});
});

describe('warranty and price', () => {
	it('a line’s warranty goes before its item’s: on the note, on the sheet and on the number', async () => {
		const code = await sale('METER', '1', { warranty: 'P36M', price: '249.00 EUR' });
		await scan(code, 'M-10');
		const { id } = await press(code);
		const today = new Date().toISOString().slice(0, 10);
		const until = addDuration(today, 'P36M');
		expect((await sheet(code)).lines[0].sold).toMatchObject({
			gone: [{ number: 'M-10', warrantyUntil: until, from: 'ND/B1', replaces: null }],
			numbers: 1
		});
		const note = await words((await shippingPaper(db.sql, 'ines', code, id, 'delivery note'))!);
		expect(note).toContain(showDay(until));
		expect(note).toContain('249.00 EUR');
		expect(await words((await shippingPaper(db.sql, 'ines', code, id, 'packing list'))!)).not.toContain('249.00');
		const late = setAgreed(db.sql, ines, await order(code), { line: (await order(code)).lines[0].id, price: '1' });
		expect(await refused(late)).toContain('Some of line 1 has gone');
		expect((await markPage(db.sql, await markOf('M-10')))!.warranty).toBe(
			`until ${showDay(until)} (shipped ${showDay(today)} + 36 months)`
		);
	});
	it('is set on a line, given back to the item, and refused where it is none', async () => {
		const code = await sale('METER', '1');
		const o = await order(code);
		const agree = (what: object) => setAgreed(db.sql, ines, o, { line: o.lines[0].id, ...what });
		await agree({ warranty: 'P5Y', price: '10' });
		expect((await order(code)).lines[0]).toMatchObject({ warranty: 'P5Y', price: '10', itemWarranty: 'P24M' });
		expect(await refused(agree({ warranty: 'P999999999Y' }))).toContain('P12M');
		await setAgreed(db.sql, ines, await order(code), { line: o.lines[0].id, warranty: '' });
		expect((await order(code)).lines[0]).toMatchObject({ warranty: null, price: '10' });
		const bought = createDocument(db.sql, 'ines', {
			kind: 'purchase',
			partner: 'SUP',
			place: 'ND',
			lines: [{ item: 'METER', qty: '1', price: '3' }]
		});
		expect(await refused(bought)).toContain('Only what is sold');
	});
});

describe('swapping', () => {
	it('before it has gone: another is picked, the rest stays, and the promise goes with it', async () => {
		const code = await sale('METER', '2');
		await makePromise(db.sql, ines, {
			key: randomUUID(),
			order: code,
			line: 1,
			item: 'METER',
			serial: 'M-11',
			qty: '1',
			until: MONTH
		});
		const before = await picks(code);
		expect(before[0]).toBe('M-11 ND/B1 1');
		await swapped(code, 'M-11', 'M-19', { out: 'ND/B1', in: 'ND/B1' });
		expect((await picks(code)).sort()).toEqual([before[1], 'M-19 ND/B1 1'].sort());
		const promised = [...(await promisesTo(db.sql, await order(code), new Date())).values()].flat();
		expect(promised.filter((p) => p.rest !== '0')).toMatchObject([{ number: 'M-19', until: MONTH }]);
		// What is held is refused, and nothing is changed by it.
		expect(await refused(swapped(code, 'M-19', 'M-4', { out: 'ND/B1', in: 'ND/B1' }))).toContain('hold');
		expect(await picks(code)).toContain('M-19 ND/B1 1');
		expect(await refused(swapped(code, 'M-19', 'M-19', { out: 'ND/B1', in: 'ND/B1' }))).toContain('already');
		expect(await refused(swapped(code, 'M-19', 'B-1', { out: 'ND/B1', in: 'ND/B2' }))).toContain('no number of Meter');
		expect(await refused(swapped(code, 'M-20', 'M-21', { out: 'ND/B1', in: 'ND/B1' }))).toContain('not chosen');
	});
	it('after it has gone: the one comes back and the other goes in one event, the papers say so, and it is undone as one', async () => {
		const code = await sale('METER', '1', { price: '99' });
		await scan(code, 'M-13');
		await press(code);
		const key = randomUUID();
		await swapped(code, 'M-13', 'M-14', { in: 'ND/B1' }, { key });
		// The same key again books nothing.
		await swapped(code, 'M-13', 'M-14', { in: 'ND/B1' }, { key });
		expect(await where('M-13')).toEqual(['ND/B1 1']);
		expect(await where('M-14')).toEqual([]);
		const now = await order(code);
		expect(now).toMatchObject({ closedAt: expect.any(String), lines: [{ done: '1', price: '99' }] });
		const { lines, events } = await sheet(code);
		expect(lines[0].sold!.gone).toMatchObject([{ number: 'M-14', replaces: 'M-13' }]);
		const [event] = events;
		expect(event).toMatchObject({ kind: 'shipment', movements: 2, brings: true });
		const text = await words((await shippingPaper(db.sql, 'ines', code, event.id, 'delivery note'))!);
		expect(text).toContain('M-14');
		expect(text).toContain('replaces M-13');
		const has =
			await db.sql`SELECT k.number FROM customer_has h JOIN partner q ON q.id = h.partner_id AND q.code = 'C1' JOIN mark k ON k.id = h.mark_id WHERE h.qty > 0 AND k.number IN ('M-13', 'M-14')`;
		expect(has).toEqual([{ number: 'M-14' }]);
		expect(await refused(swapped(code, 'M-13', 'M-15', { in: 'ND/B1' }))).toContain('came back');
		await undoEvent(db.sql, ines, { undo: event.id, key: randomUUID(), reason: 'wrong one' });
		expect(await where('M-14')).toEqual(['ND/B1 1']);
		expect((await sheet(code)).lines[0]).toMatchObject({
			done: '1',
			sold: { gone: [{ number: 'M-13', replaces: null }] }
		});
	});
	it('where its site picks in an act of its own, too', async () => {
		await setPlaceUse(db.sql, 'ines', 'QS/OUT', 'staging', true);
		const code = await createDocument(db.sql, 'ines', {
			...{ kind: 'sale', partner: 'C1', place: 'QS', lines: [{ item: 'METER', qty: '1' }] }
		});
		for (const mode of ['use', 'output'] as const)
			await bookSheet(db.sql, ines, code, {
				key: randomUUID(),
				stamp: (await sheetState(db.sql, code, mode)).stamp,
				mode
			});
		expect((await sheet(code)).lines[0].sold!.gone).toMatchObject([{ number: 'M-QS', from: 'QS/A1' }]);
		expect(await refused(swapped(code, 'M-QS', 'M-22', { in: 'ND/B1' }, { to: 'QS/OUT' }))).toContain(
			'Picked goods wait'
		);
		await swapped(code, 'M-QS', 'M-22', { in: 'ND/B1' });
		expect(await where('M-QS')).toEqual(['QS/A1 1']);
		expect((await order(code)).lines[0].done).toBe('1');
		await setPlaceUse(db.sql, 'ines', 'QS/OUT', 'staging', false);
	});
	it('a lot for a lot, back to where it is said; what is held does not go', async () => {
		const code = await createDocument(db.sql, 'ines', {
			kind: 'sale',
			partner: 'C1',
			place: 'ND',
			lines: [{ item: 'BOTTLE', qty: '5' }]
		});
		await swapped(code, (await picks(code))[0].split(' ')[0], 'B-2', { out: 'ND/B2', in: 'ND/B2' });
		await press(code);
		const had = await where('B-2');
		await swapped(code, 'B-2', 'B-1', { in: 'ND/B2' }, { to: 'ND/B1' });
		expect(await where('B-2')).toEqual(['ND/B1 5', ...had]);
		expect((await order(code)).lines[0].done).toBe('5');
		await setStatus(db.sql, ines, { key: randomUUID(), act: 'hold', mark: await markOf('B-2'), reason: 'Cloudy' });
		expect(await refused(swapped(code, 'B-1', 'B-2', { in: 'ND/B2' }))).toContain('hold');
		await expect(
			swap(db.sql, auditor, await order(code), { key: randomUUID(), line: '1', out: { mark: '1' }, in: { mark: '2' } })
		).rejects.toThrow('Only a coordinator');
	});
});

describe('signing', () => {
	it('is refused while the firm has no terms, while it is empty, and without a number until that is said', async () => {
		const code = await sale('METER', '1');
		expect(await refused(signed(code, { meaning: 'terms' }))).toContain('has no terms');
		expect(await termsPaper(db.sql, 'ines', code)).toBeNull();
		await saveFirm(db.sql, 'ines', { terms: 'Goods stay ours until they are paid.' });
		const scribble = [Array.from({ length: 20_001 }, (_, i) => ({ x: i % 500, y: i % 90 }))];
		expect(await refused(signed(code, { meaning: 'terms', strokes: scribble }))).toContain('more than a signature');
		expect(await refused(signed(code, { meaning: 'terms', strokes: [] }))).toContain('The signature is empty');
		expect(await refused(signed(code, { meaning: 'terms', strokes: [[{ x: 5, y: 5 }]] }))).toContain(
			'The signature is empty'
		);
		expect(await refused(signed(code, { meaning: 'terms' }))).toContain(
			'No number is chosen or promised yet for line 1, Meter'
		);
		const open = await words((await termsPaper(db.sql, 'ines', code))!);
		expect(open).toContain('Goods stay ours');
		await signed(code, { meaning: 'terms', withoutNumber: true });
		const { sale: state, lines, noted } = await sheet(code);
		expect(state!.signed).toMatchObject([{ meaning: 'terms', signer: 'Ada Brook', event: null }]);
		expect(progressOf(lines, noted)).toEqual({ goods: 'to ship', payment: 'none noted', numbers: 'to assign' });
		expect(await refused(signed(code, { meaning: 'terms', withoutNumber: true }))).toContain('signed already');
		// What was signed stays as it was signed, and prints the same again.
		const paper = (await termsPaper(db.sql, 'ines', code))!;
		expect(await words(paper)).toContain('Agreed to by Ada Brook');
		await saveFirm(db.sql, 'ines', { terms: 'Other terms.' });
		await setAgreed(db.sql, ines, await order(code), { line: (await order(code)).lines[0].id, price: '999' });
		expect(Buffer.from((await termsPaper(db.sql, 'mina', code))!).equals(Buffer.from(paper))).toBe(true);
	});
	it('goods, payment and numbers go each their own way', async () => {
		const code = await sale('METER', '2');
		const at = async () => {
			const { lines, noted } = await sheet(code);
			return { ...progressOf(lines, noted), left: numbersToCome(lines[0]) };
		};
		expect(await at()).toEqual({ goods: 'to ship', payment: 'none noted', numbers: 'to assign', left: '2' });
		await note(db.sql, ines, await order(code), { key: 'p', what: 'payment', number: 'transfer 4711' });
		await scan(code, 'M-16');
		expect(await at()).toEqual({ goods: 'to ship', payment: 'noted', numbers: 'partly assigned', left: '1' });
		// The same number promised and picked is one.
		await makePromise(db.sql, ines, {
			key: randomUUID(),
			order: code,
			line: 1,
			item: 'METER',
			serial: 'M-16',
			qty: '1'
		});
		expect((await at()).left).toBe('1');
		await scan(code, 'M-17');
		expect(await at()).toEqual({ goods: 'to ship', payment: 'noted', numbers: 'assigned', left: '0' });
		await press(code);
		expect(await at()).toEqual({ goods: 'handed over', payment: 'noted', numbers: 'assigned', left: '0' });
		expect(await refused(signed(code, { meaning: 'terms' }))).toContain('has gone already');
	});
	it('of who took it, once for each hand-over; it stands on the note, which is kept', async () => {
		const code = await sale('METER', '1');
		await scan(code, 'M-18');
		const { id } = await press(code);
		const before = (await shippingPaper(db.sql, 'ines', code, id, 'delivery note'))!;
		expect(await words(before)).toContain('Received by: name, date, signature');
		await signed(code, { meaning: 'receipt', event: id });
		const after = (await shippingPaper(db.sql, 'ines', code, id, 'delivery note'))!;
		expect(await words(after)).toContain('Received by Ada Brook');
		expect(await refused(signed(code, { meaning: 'receipt', event: id }))).toContain('signed already');
		const other = await sale('METER', '1');
		expect(await refused(signed(other, { meaning: 'receipt', event: id }))).toContain('Nothing was handed over');
		const [{ content }] = await db.sql<{ content: string }[]>`
			SELECT convert_from(f.content, 'UTF8') AS content FROM signature s JOIN stored_file f USING (sha256) WHERE s.event_id = ${id}`;
		expect(content).toMatch(
			/^<svg xmlns="http:\/\/www\.w3\.org\/2000\/svg"[^<]*><g [^<]*>(<polyline points="[\d., ]*"\/>)+<\/g><\/svg>$/
		);
		await expect(db.sql`UPDATE signature SET signer = 'Somebody else'`).rejects.toThrow();
		await expect(
			sign(db.sql, auditor, await order(code), { meaning: 'receipt', event: id, signer: 'A', strokes: drawn })
		).rejects.toThrow('Only a coordinator');
	});
});

describe('invoices', () => {
	it('what was shipped and what was invoiced stand apart, and the difference is listed', async () => {
		const code = await createDocument(db.sql, 'ines', {
			kind: 'sale',
			partner: 'C1',
			place: 'ND',
			lines: [
				{ item: 'BOTTLE', qty: '6' },
				{ item: 'CAP', qty: '4' }
			]
		});
		const noted = async (given: object) => note(db.sql, ines, await order(code), given);
		expect(await refused(noted({ key: randomUUID(), what: 'invoice', number: 'I-1' }))).toContain(
			'Nothing is open to be invoiced'
		);
		// Invoiced ahead of the goods.
		await noted({ key: randomUUID(), what: 'invoice', number: 'I-1', lines: [{ no: 2, qty: '4' }] });
		await press(code);
		const key = randomUUID();
		await noted({ key, what: 'invoice', number: 'I-2' });
		await noted({ key, what: 'invoice', number: 'I-2' });
		expect(await refused(noted({ key, what: 'payment', number: 'P-2' }))).toContain('stands for something else');
		const now = await order(code);
		expect(now.lines.map((l) => l.invoiced)).toEqual(['6', '4']);
		expect(now.noted).toMatchObject([
			{ number: 'I-1', lines: [{ no: 2, qty: '4' }] },
			{ number: 'I-2', lines: [{ no: 1, qty: '6' }], withdrawn: null }
		]);
		expect(
			await refused(noted({ key: randomUUID(), what: 'invoice', number: 'I-2', lines: [{ no: 1, qty: '1' }] }))
		).toContain('noted already');
		expect(
			await refused(noted({ key: randomUUID(), what: 'invoice', number: 'I-3', lines: [{ no: 1, qty: '1' }] }))
		).toContain('6 are ordered and 6 invoiced already');
		for (const [lines, says] of [
			[[{ no: 9, qty: '1' }], 'has no line 9'],
			[[{ no: 1, qty: 'many' }], 'many'],
			[
				[
					{ no: 1, qty: '1' },
					{ no: 1, qty: '1' }
				],
				'twice'
			]
		] as const)
			expect(await refused(noted({ key: randomUUID(), what: 'invoice', number: 'I-4', lines }))).toContain(says);
		expect(await refused(noted({ key: randomUUID(), what: 'payment', number: 'P', dated: 'someday' }))).toContain(
			'someday'
		);
		await noted({ withdraw: now.noted[1].id });
		expect((await order(code)).lines.map((l) => l.invoiced)).toEqual(['0', '4']);
		expect(await refused(noted({ withdraw: now.noted[1].id }))).toContain('at the same moment');
		await expect(note(db.sql, auditor, now, { withdraw: now.noted[0].id })).rejects.toThrow('Only a coordinator');
	});
});

it('and the ledger holds', async () => {
	expect(await findingsOf(db.sql)).toEqual([]);
});
