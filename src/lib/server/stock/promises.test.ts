import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { bookTest, findingsOf, ines, testDatabase } from '../../../../tests/db/cluster.ts';
import { press as pressed } from '../../../../tests/db/sheets.ts';
import type { EventInput } from '../../core/ledger/input.ts';
import { Problem } from '../../core/problem/problem.ts';
import { closeShort } from '../document/close.ts';
import { createDocument } from '../document/create.ts';
import { getOrder } from '../document/orders.ts';
import { undoEvent } from '../document/undo.ts';
import { book } from '../ledger/book.ts';
import { setStatus } from '../ledger/changes.ts';
import { correct } from '../ledger/corrections.ts';
import { touchesOf } from '../register/touches.ts';
import { createItem } from '../setup/items.ts';
import { addPlace, savePartner } from '../setup/places.ts';
import { saveRows } from '../sheet/drafts.ts';
import { sheetState } from '../sheet/state.ts';
import { allocationFor } from './allocations.ts';
import { makePromise, makePromises, promisesOfMark, releasePromises } from '../document/promises.ts';

const db = testDatabase();
const auditor = { name: 'audra', role: 'auditor', source: 'screen' } as const;
const mina = { name: 'mina', role: 'receiving and shipping', source: 'screen' } as const;
const markOf = async (number: string) =>
	(await db.sql<{ id: string }[]>`SELECT id FROM mark WHERE number = ${number}`)[0].id;
const sale = (qty: string, more: { item?: string; place?: string; kind?: 'sale' | 'purchase' } = {}) =>
	createDocument(db.sql, 'ines', {
		...{ kind: more.kind ?? 'sale', partner: more.kind === 'purchase' ? 'S1' : 'SKEN', place: more.place ?? 'QS' },
		lines: [{ item: more.item ?? 'GEL', qty }]
	});
const promise = (order: string, lot: string, qty: string, more: object = {}) =>
	makePromise(db.sql, ines, { key: randomUUID(), order, line: 1, item: 'GEL', lot, qty, ...more });
const refused = async (act: Promise<unknown>) => {
	const e = await act.catch((error: unknown) => error);
	expect(e).toBeInstanceOf(Problem);
	return (e as Problem).faults.map((f) => f.message).join(' ');
};
/** Of a lot: how much is free for nobody in particular, and why the rest is not. */
const free = async (lot: string, qty = '99') => {
	const { picks, leftOut } = await allocationFor(db.sql, { item: 'GEL', qty, purpose: 'shipment' });
	return [
		picks.filter((p) => p.lot === lot).map((p) => `${p.place} ${p.qty}`),
		leftOut.filter((l) => l.lot === lot).map((l) => `${l.place} ${l.reason}: ${l.message}`)
	];
};
const suggested = async (code: string) =>
	(await sheetState(db.sql, code)).lines[0].cells[0].picks.map((p) => `${p.number} ${p.qty} ${p.why}`);
const shown = async (code: string) =>
	(await sheetState(db.sql, code)).lines[0].promises.map((p) => [p.number, p.qty, p.rest, p.takenBy, p.over]);
const ship = (code: string, reason?: string) => pressed(db.sql, code, 'both', reason);
let n = 0;
/** A new lot of gel, by itself or in two bins. */
async function lot(qty: string, more: object = {}): Promise<string> {
	const name = `G-${++n}`;
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: [{ item: 'GEL', lot: name, qty, from: '@supplier', to: 'QS/A1', ...more }]
	});
	return name;
}
const call = (movements: Partial<NonNullable<EventInput['movements']>[number]>[], more: Partial<EventInput> = {}) =>
	book(
		db.sql,
		{ ...ines, source: 'api' },
		{
			...{ key: randomUUID(), kind: 'shipment', at: new Date().toISOString(), partner: 'SKEN' },
			movements: movements.map((m) => ({ item: 'GEL', qty: '1', from: 'QS/A1', to: '@customer', ...m })),
			...more
		}
	);

beforeAll(async () => {
	for (const code of ['QS', 'QS/A1', 'QS/B1', 'KN', 'KN/A1']) await addPlace(db.sql, 'ines', { code, name: code });
	await savePartner(db.sql, 'ines', 'SKEN', { name: 'Sken', kind: 'customer' });
	await savePartner(db.sql, 'ines', 'S1', { name: 'Supplier', kind: 'supplier' });
	await createItem(db.sql, 'ines', { code: 'GEL', name: 'Gel', unit: 'kg', decimals: 1, tracking: 'lot' });
	await createItem(db.sql, 'ines', { code: 'PUMP', name: 'Pump', unit: 'each', tracking: 'lot and serial' });
	await bookTest(db.sql, {
		kind: 'receipt',
		partner: 'S1',
		movements: Array.from({ length: 6 }, (_, i) => ({
			...{ item: 'PUMP', lot: 'PL', serial: `P-${i + 1}`, qty: '1', from: '@supplier', to: 'QS/A1' }
		}))
	});
});

describe('a promise', () => {
	it('holds so much of a lot for its line: nobody else is offered it, and its own line takes it first', async () => {
		const [a, b] = [await lot('10'), await lot('10')];
		const [first, second] = [await sale('4'), await sale('12')];
		const made = await promise(first, b, '4');
		expect(made).toMatchObject({ order: first, line: 1, item: 'GEL', lot: b, serial: null, qty: '4' });
		expect(await free(b)).toEqual([['QS/A1 6'], []]);
		expect(await suggested(first)).toEqual([`${b} 4 promised`]);
		expect(await suggested(second)).toEqual([`${a} 10 by number`, `${b} 2 by number`]);
		expect(await shown(first)).toEqual([[b, '4', '4', null, null]]);
		const touched = await touchesOf(db.sql, await markOf(b), 'number', '', new Date());
		expect(touched!.promised).toMatchObject([{ code: first, what: '4 kg' }]);
		await releasePromises(db.sql, ines, [made.id]);
		expect(await free(b)).toEqual([['QS/A1 10'], []]);
		expect(await suggested(first)).toEqual([`${a} 4 by number`]);
		expect(await shown(first)).toEqual([]);
		// Twice is once.
		expect(await releasePromises(db.sql, ines, [made.id])).toEqual([{ id: made.id, order: first }]);
		// Clears the table for the rest.
		await ship(second);
		await ship(first);
	});

	it('is used up by what goes out on its line, and holds again when that is undone', async () => {
		const g = await lot('10');
		const code = await sale('6');
		await promise(code, g, '6');
		const [line] = (await getOrder(db.sql, code))!.lines;
		await saveRows(db.sql, 'ines', (await getOrder(db.sql, code))!, [
			{ id: randomUUID(), lineId: line.id, version: 0, data: { mark: await markOf(g), place: 'QS/A1', qty: '2' } }
		]);
		// What its own open sheet has picked is part of what is promised.
		expect((await free(g))[0]).toEqual(['QS/A1 4']);
		const booked = await ship(code);
		expect((await free(g))[0]).toEqual(['QS/A1 4']);
		expect(await shown(code)).toEqual([[g, '6', '4', null, null]]);
		await undoEvent(db.sql, ines, { undo: booked.id, key: randomUUID(), reason: 'Wrong pallet' });
		expect((await free(g))[0]).toEqual(['QS/A1 4']);
		expect(await shown(code)).toEqual([[g, '6', '6', null, null]]);
		await ship(code);
		expect((await free(g))[0]).toEqual(['QS/A1 4']);
		expect(await shown(code)).toEqual([]);
		await call([{ lot: g, qty: '4' }]);
	});

	it('ends with its day and with its order', async () => {
		const g = await lot('5');
		const [dated, open] = [await sale('2'), await sale('2')];
		const { id } = await promise(dated, g, '2', { until: '2099-12-31' });
		await promise(open, g, '2');
		expect((await free(g))[0]).toEqual(['QS/A1 1']);
		await db.owner`UPDATE promise SET until = '2026-01-31' WHERE id = ${id}`;
		expect((await free(g))[0]).toEqual(['QS/A1 3']);
		expect(await shown(dated)).toEqual([[g, '2', '2', null, 'run out']]);
		await closeShort(db.sql, ines, open, { key: randomUUID(), reason: 'Not wanted any more' });
		expect((await free(g))[0]).toEqual(['QS/A1 5']);
		expect(await refused(promise(dated, g, '1', { until: '2026-01-31' }))).toBe(
			'31 Jan 2026 has passed. Give the last day that it is to be kept for, or none.'
		);
		await promise(dated, g, '2');
		await call([{ lot: g, qty: '3' }]);
		expect(await refused(call([{ lot: g, qty: '1' }]))).toContain(`promised to ${dated} (1 kg)`);
		await ship(dated);
	});

	it('is taken over only with a reason, and the other order says by whom', async () => {
		const g = await lot('5');
		const [mine, theirs] = [await sale('4'), await sale('3')];
		await promise(mine, g, '4');
		expect(await free(g)).toEqual([['QS/A1 1'], []]);
		expect(await refused(promise(theirs, g, '3'))).toBe(
			`Lot ${g}: this takes what is promised to ${mine} (2 kg). Take another, or say why it is taken over.`
		);
		await promise(theirs, g, '3', { reason: 'Their line stands still' });
		expect(await shown(mine)).toEqual([
			[g, '4', '2', expect.stringMatching(`^ines took over 2 kg for ${theirs} on .*: Their line stands still$`), null]
		]);
		expect(await free(g)).toEqual([[], [`QS/A1 promised: promised to ${mine}, promised to ${theirs}`]]);
		// Whoever takes it without any promise is told so too, and takes it over with a reason.
		expect(await refused(call([{ lot: g, qty: '1' }]))).toBe(
			`Lot ${g}: this takes what is promised to ${theirs} (1 kg). Take another, or say why it is taken over.`
		);
		const booked = await call([{ lot: g, qty: '1' }], { reason: 'A sample', document: 'S-7' });
		expect(booked.movements).toBe(1);
		expect(await shown(theirs)).toEqual([[g, '3', '2', expect.stringContaining('took over 1 kg for S-7'), null]]);
		// The line of its own order takes what is its own, and asks nothing.
		await ship(theirs);
		await ship(mine);
		expect(await findingsOf(db.sql)).toEqual([]);
	});

	it('of serials is made as suggested in one act, and of a lot whose pieces have serials not at all', async () => {
		const [one, two] = [await sale('2', { item: 'PUMP' }), await sale('3', { item: 'PUMP' })];
		const state = await sheetState(db.sql, one);
		const picks = state.lines[0].cells[0].picks.map(({ mark, qty }) => ({ mark, qty }));
		const given = { key: randomUUID(), line: state.lines[0].id, picks };
		const made = await makePromises(db.sql, mina, (await getOrder(db.sql, one))!, given);
		expect(made).toHaveLength(2);
		expect(await makePromises(db.sql, mina, (await getOrder(db.sql, one))!, given)).toEqual(made);
		expect(
			await refused(makePromises(db.sql, mina, (await getOrder(db.sql, one))!, { ...given, picks: picks.slice(1) }))
		).toContain('stands for another promise');
		expect(await suggested(two)).toEqual(['P-3 1 by number', 'P-4 1 by number', 'P-5 1 by number']);
		const other = { key: randomUUID(), order: two, line: 1, item: 'PUMP' };
		expect(await refused(makePromise(db.sql, ines, { ...other, serial: 'P-1' }))).toBe(
			`Serial P-1 is promised to ${one}. Take another, or say why it is taken over.`
		);
		expect(await refused(makePromise(db.sql, ines, { ...other, lot: 'PL' }))).toContain(
			'Lot PL: nothing of it is on hand'
		);
		await makePromise(db.sql, ines, { ...other, serial: 'P-1', reason: 'Ordered first' });
		expect(await suggested(one)).toEqual(['P-2 1 promised', 'P-3 1 by number']);
		expect(await suggested(two)).toEqual(['P-1 1 promised', 'P-3 1 by number', 'P-4 1 by number']);
	});

	it('to a customer is made as what was bought for it arrives; its orders take it first, others with a reason', async () => {
		await savePartner(db.sql, 'ines', 'OTHER', { name: 'Other', kind: 'customer' });
		const bought = (more: object) =>
			createDocument(db.sql, 'ines', {
				...{ kind: 'purchase', partner: 'S1', place: 'QS/A1' },
				lines: [{ item: 'GEL', qty: '5', ...more }]
			});
		expect(await refused(bought({ for: 'NOBODY' }))).toContain('There is no partner NOBODY');
		expect(
			await refused(
				createDocument(db.sql, 'ines', {
					...{ kind: 'sale', partner: 'SKEN', place: 'QS' },
					lines: [{ item: 'GEL', qty: '5', for: 'SKEN' }]
				})
			)
		).toContain('Only what is bought is bought for a customer');
		const plain = await lot('5');
		const code = await bought({ for: 'SKEN' });
		const order = (await getOrder(db.sql, code))!;
		expect((await sheetState(db.sql, code)).lines[0].forPartner).toBe('Sken');
		const g = `G-${++n}`;
		await saveRows(db.sql, 'ines', order, [
			{ id: randomUUID(), lineId: order.lines[0].id, version: 0, data: { lot: g, qty: '5' } }
		]);
		const arrived = await ship(code);
		expect(await free(g)).toEqual([[], ['QS/A1 promised: promised to Sken']]);
		expect((await suggested(await sale('7')))[0]).toBe(`${g} 5 promised`);
		const { picks } = await allocationFor(db.sql, { item: 'GEL', qty: '99', purpose: 'shipment', customer: 'SKEN' });
		expect(picks.filter((p) => p.lot === g).map((p) => p.qty)).toEqual(['5']);
		const [{ id, to, kind }] = await promisesOfMark(db.sql, await markOf(g));
		expect([to, kind]).toEqual(['Sken', null]);
		expect((await touchesOf(db.sql, await markOf(g), 'number', '', new Date()))!.promised).toEqual([
			{ code: 'Sken', path: null, what: '5 kg' }
		]);
		const others = { partner: 'OTHER' };
		expect(await refused(call([{ lot: g, qty: '1' }], others))).toContain('promised to Sken (1 kg)');
		await call([{ lot: g, qty: '1' }], { ...others, reason: 'Agreed with Sken' });
		// What the customer itself gets, by whatever order, is what was promised.
		await call([{ lot: g, qty: '2' }]);
		expect((await promisesOfMark(db.sql, await markOf(g))).map((p) => p.qty)).toEqual(['2']);
		await releasePromises(db.sql, ines, [id]);
		expect((await free(g))[0]).toEqual(['QS/A1 2']);
		await call([
			{ lot: g, qty: '2' },
			{ lot: plain, qty: '5' }
		]);
		expect(arrived.movements).toBe(1);
		expect(await findingsOf(db.sql)).toEqual([]);
	});
	it('to a customer is none where the receipt that brought it is undone', async () => {
		const code = await createDocument(db.sql, 'ines', {
			...{ kind: 'purchase', partner: 'S1', place: 'QS/A1' },
			lines: [{ item: 'GEL', qty: '5', for: 'SKEN' }]
		});
		const order = (await getOrder(db.sql, code))!;
		const g = `G-${++n}`;
		const arrive = async () => {
			await saveRows(db.sql, 'ines', order, [
				{ id: randomUUID(), lineId: order.lines[0].id, version: 0, data: { lot: g, qty: '5' } }
			]);
			return ship(code);
		};
		const first = await arrive();
		await undoEvent(db.sql, ines, { undo: first.id, key: randomUUID(), reason: 'Wrong line' });
		expect(await promisesOfMark(db.sql, await markOf(g))).toEqual([]);
		await arrive();
		expect((await promisesOfMark(db.sql, await markOf(g))).map((p) => p.qty)).toEqual(['5']);
		await call([{ lot: g, qty: '5' }]);
	});

	it('goes along when its lot turns out to be another one', async () => {
		const [g, right] = [await lot('5'), await lot('2')];
		const code = await sale('4');
		await promise(code, g, '4');
		await correct(db.sql, ines, {
			...{ key: randomUUID(), mark: await markOf(g), field: 'number', value: right, reason: 'misread' },
			into: await markOf(right)
		});
		expect(await shown(code)).toEqual([[right, '4', '4', null, null]]);
		expect(await free(right)).toEqual([['QS/A1 3'], []]);
		await ship(code);
	});

	it('is refused for what cannot go, with the reason and the way out; nothing is promised then', async () => {
		const g = await lot('5');
		const far = await lot('5', { to: 'KN/A1' });
		const held = await lot('5');
		await setStatus(db.sql, ines, { key: randomUUID(), act: 'hold', mark: await markOf(held), reason: 'to look' });
		const code = await sale('4');
		const said = (number: string, qty: string, more: object = {}) => refused(promise(code, number, qty, more));
		expect(await said(held, '1')).toBe(
			`Lot ${held}: none of 1 can be promised: on hold. Take another, or promise less.`
		);
		expect(await said(far, '1')).toBe(
			`Lot ${far}: none of 1 can be promised: at KN/A1. Take another, or promise less.`
		);
		expect(await said(g, '6')).toContain('5 of 6 can be promised, more is not there.');
		expect(await said(g, '4.5')).toBe(
			`Line 1 of ${code} needs 4 kg more; 4.5 kg would be promised to it. Promise less.`
		);
		expect(await said(g, '1.25')).toContain('1.25 has 2 decimals');
		expect(await said(g, '0')).toContain('more than zero');
		expect(await said('G-NONE', '1')).toContain('G-NONE of GEL is not known');
		expect(await said(g, '1', { line: 7 })).toBe(`${code} has no line 7. It has 1.`);
		expect(await said(g, '1', { item: 'PUMP' })).toContain('is GEL, not PUMP');
		expect(await said(g, '1', { lot: null })).toContain('Name the lot or the serial');
		expect(await said(g, '1', { order: 'SO-NONE' })).toContain('There is no order SO-NONE');
		expect(
			await refused(makePromise(db.sql, auditor, { key: 'x', order: code, line: 1, item: 'GEL', lot: g, qty: '1' }))
		).toContain('Only a coordinator');
		const receipt = await sale('4', { kind: 'purchase', place: 'QS/A1' });
		expect(await said(g, '1', { order: receipt })).toContain('takes nothing from stock');
		await promise(code, g, '1');
		expect(await said(g, '1')).toBe(`Lot ${g}: 1 kg are promised to ${code}, line 1, already. Release that first.`);
		expect(await refused(releasePromises(db.sql, ines, ['999999']))).toContain('There is no promise 999999');
		expect(await refused(releasePromises(db.sql, ines, ['x']))).toContain('There is no promise x');
		expect((await free(g))[0]).toEqual(['QS/A1 4']);
	});

	it('of the last pieces is given to one of two who ask at once, and a booking at the same moment sees it', async () => {
		for (let round = 0; round < 6; round++) {
			const g = await lot('3');
			const [a, b] = [await sale('3'), await sale('3')];
			const done = await Promise.allSettled([promise(a, g, '3'), promise(b, g, '3'), call([{ lot: g, qty: '3' }])]);
			const went = done.filter((d) => d.status === 'fulfilled');
			expect(went).toHaveLength(1);
			for (const d of done)
				if (d.status === 'rejected')
					expect((d.reason as Error).message).toMatch(/promised to|can be promised|on hand|asked for/);
			const [{ held }] = await db.sql<{ held: string }[]>`
				SELECT coalesce(sum(rest), 0)::text AS held FROM promise_now WHERE mark_id = ${await markOf(g)}`;
			expect(Number(held)).toBe(done[2].status === 'fulfilled' ? 0 : 3);
		}
		// What nobody was promised goes once, from whatever bin.
		for (const bin of ['QS/A1', 'QS/B1', 'QS/A1', 'QS/B1']) {
			const g = await lot('6');
			await call([{ lot: g, qty: '3', to: 'QS/B1' }], { kind: 'move', partner: null });
			const a = await sale('4');
			await promise(a, g, '4');
			const done = await Promise.allSettled([call([{ lot: g, qty: '2' }]), call([{ lot: g, qty: '1.5', from: bin }])]);
			expect(done.filter((d) => d.status === 'fulfilled')).toHaveLength(1);
			for (const d of done)
				if (d.status === 'rejected') expect((d.reason as Error).message).toContain(`promised to ${a}`);
			expect(await shown(a)).toEqual([[g, '4', '4', null, null]]);
		}
		expect(await findingsOf(db.sql)).toEqual([]);
	});
});
