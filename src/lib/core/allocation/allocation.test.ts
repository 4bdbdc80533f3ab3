import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { less, rest, sub, total } from '../quantity/quantity.ts';
import { allocate } from './allocate.ts';
import { pickState } from '../sheet/sheet.ts';
import { fillCells, type Chosen, type Stock } from './cells.ts';

const today = '2026-11-24';
const lot = (number: string, qty: string, expiresOn: string | null = null, more: Partial<Stock> = {}): Stock => ({
	mark: number,
	number,
	place: 'A1',
	qty,
	expiresOn,
	status: 'released',
	since: '2026-01-01',
	serial: false,
	kind: 'lot',
	lot: null,
	facts: {},
	lotFacts: null,
	...more
});

describe('first expired, first out', () => {
	it('takes over as many lots as needed, the earliest date first, and says why a lot is left out', () => {
		const stock = [
			lot('late', '10', '2028-01-01'),
			lot('soon', '4', '2026-12-01'),
			lot('old', '9', '2026-11-23'),
			lot('held', '9', '2026-12-02', { status: 'held' }),
			lot('other', '5', '2026-11-30', { promised: '5' }),
			lot('undated', '99')
		];
		const { picks, short, leftOut } = allocate('12', stock, today);
		expect(picks.map((p) => `${p.mark} ${p.qty}`)).toEqual(['soon 4', 'late 8']);
		expect(short).toBe('0');
		expect(leftOut.map((l) => `${l.number}: ${l.message}`)).toEqual([
			'old: expired 23 Nov 2026',
			'held: on hold',
			'other: picked for another order'
		]);
	});
	it('a serial’s date comes before when it came: of two that came at another time, the first to expire goes', () => {
		const serial = (n: string, since: string, day: string | null) =>
			lot(n, '1', day, { serial: true, kind: 'serial', since });
		const stock = [serial('S1', '2026-05-01', '2027-06-01'), serial('S2', '2026-09-01', '2027-01-01')];
		expect(allocate('1', stock, today).picks.map((p) => p.mark)).toEqual(['S2']);
		// Alike in date, the first in goes first; come together, a range goes in its order.
		const alike = [serial('S2', '2026-01-01', null), serial('S1', '2026-09-01', null)];
		expect(allocate('1', alike, today).picks.map((p) => p.mark)).toEqual(['S2']);
		const range = ['S10', 'S9'].map((n) => serial(n, '2026-01-01', null));
		expect(allocate('1', range, today).picks.map((p) => p.mark)).toEqual(['S9']);
		// A lot beside a serial: what came first goes first.
		const mixed = [lot('L', '1', null, { since: '2026-09-01' }), serial('S9', '2026-01-01', null)];
		expect(allocate('1', mixed, today).picks.map((p) => p.mark)).toEqual(['S9']);
	});
	it('expires at the end of its day, not before', () =>
		expect(allocate('1', [lot('x', '1', today)], today).picks).toHaveLength(1));
	it('without dates the first to arrive goes first, serials by number', () => {
		const stock = [lot('B', '1', null, { since: '2026-05-01' }), lot('A', '1', null, { since: '2026-06-01' })];
		expect(allocate('2', stock, today).picks.map((p) => p.mark)).toEqual(['B', 'A']);
		const serials = ['S10', 'S9', 'S1'].map((n) => lot(n, '1', null, { serial: true, kind: 'serial' }));
		expect(allocate('3', serials, today).picks.map((p) => p.mark)).toEqual(['S1', 'S9', 'S10']);
	});
	it('never takes more than is free, never leaves free stock while something is short', () => {
		const any = fc.record({
			qty: fc.integer({ min: 1, max: 50 }),
			promised: fc.integer({ min: 0, max: 60 }),
			day: fc.constantFrom(null, '2026-11-01', '2026-12-01', '2027-05-01'),
			held: fc.boolean()
		});
		fc.assert(
			fc.property(fc.array(any, { maxLength: 12 }), fc.integer({ min: 1, max: 200 }), (list, need) => {
				const stock = list.map((s, i) =>
					lot(`L${i}`, String(s.qty), s.day, { promised: String(s.promised), status: s.held ? 'held' : 'released' })
				);
				const { picks, short } = allocate(String(need), stock, today);
				const free = total(
					stock
						.filter((s) => s.status === 'released' && !(s.expiresOn && s.expiresOn < today))
						.map((s) => rest(s.qty, s.promised!))
				);
				expect(total([...picks.map((p) => p.qty), short])).toBe(String(need));
				expect(short).toBe(rest(String(need), free));
				const days = picks.map((p) => stock.find((s) => s.mark === p.mark)!.expiresOn ?? '9999');
				expect(days).toEqual([...days].sort());
			})
		);
	});
});

describe('cells', () => {
	const boards = ['VB-1', 'VB-2', 'VB-3'].map((n) => lot(n, '1', null, { serial: true, kind: 'serial' }));
	const pick = (unit: string | null, mark: string, qty = '1', more: Partial<Chosen> = {}): Chosen => ({
		id: 'd-' + mark,
		version: 1,
		unit,
		mark,
		place: 'A1',
		qty,
		facts: {},
		evidence: 'entered',
		...more
	});
	it('each unit gets its own serial; what is chosen for one is not suggested for another', () => {
		const { cells } = fillCells(
			[
				{ unit: 'WM-1', need: '1' },
				{ unit: 'WM-2', need: '1' }
			],
			[pick('WM-2', 'VB-1')],
			boards,
			today
		);
		expect(cells.map((c) => c.picks.map((p) => p.number))).toEqual([['VB-2'], ['VB-1']]);
		expect(cells[1].picks[0].id).toBe('d-VB-1');
	});
	it('deals a lot out over units, and over to the next lot', () => {
		const { cells } = fillCells(
			['a', 'b', 'c'].map((unit) => ({ unit, need: '2' })),
			[],
			[lot('C-1', '3'), lot('C-2', '9', null, { since: '2026-02-01' })],
			today
		);
		expect(cells.map((c) => c.picks.map((p) => `${p.number} ${p.qty}`))).toEqual([
			['C-1 2'],
			['C-1 1', 'C-2 1'],
			['C-2 2']
		]);
	});
	it('what nobody may suggest is only offered: the cell stays empty until somebody says which one goes in', () => {
		const wanted = ['WM-1', 'WM-2'].map((unit) => ({ unit, need: '1' }));
		const { cells } = fillCells(wanted, [pick('WM-2', 'VB-1')], boards, today, {
			suggests: (s) => s.kind !== 'serial'
		});
		expect(cells.map((c) => [c.picks.map((p) => p.number), c.short, c.offers.map((o) => o.number)])).toEqual([
			[[], '1', ['VB-2']],
			[['VB-1'], '0', []]
		]);
	});
	it('offers nothing that may not be taken, and nothing twice', () => {
		const stock = [...boards.slice(0, 1), lot('VB-9', '1', null, { serial: true, kind: 'serial', status: 'held' })];
		const { cells } = fillCells(
			['a', 'b'].map((unit) => ({ unit, need: '1' })),
			[],
			stock,
			today,
			{ suggests: () => false }
		);
		expect(cells.map((c) => c.offers.map((o) => o.number))).toEqual([['VB-1'], []]);
	});
	it('what was chosen stands and the rest is suggested, from elsewhere', () => {
		const stock = [lot('A', '9'), lot('B', '9', null, { since: '2026-02-01' })];
		const of = (chosen: Chosen[]) =>
			fillCells([{ unit: null, need: '8' }], chosen, stock, today).cells.map((c) => [
				c.picks.map((p) => `${p.number} ${p.qty} ${pickState(p)}`),
				c.short
			]);
		expect(of([pick(null, 'B', '2')])).toEqual([[['B 2 chosen', 'A 6 suggested'], '0']]);
		// Of A so much was said: there is no more of it to be had.
		expect(of([pick(null, 'A', '2')])).toEqual([[['A 2 chosen', 'B 6 suggested'], '0']]);
		expect(of([pick(null, 'A', '0')])).toEqual([[['A 0 chosen'], '8']]);
		expect(of([pick(null, 'B', '0')])).toEqual([[['B 0 chosen', 'A 8 suggested'], '0']]);
		expect(of([pick(null, 'A', '0'), pick(null, 'B', '1', { evidence: 'scanned' })])).toEqual([
			[['A 0 chosen', 'B 1 picked'], '7']
		]);
	});
	it('what one unit has chosen may be suggested for another', () => {
		const wanted = ['u', 'v'].map((unit) => ({ unit, need: '3' }));
		const { cells } = fillCells(wanted, [pick('u', 'A', '1')], [lot('A', '4'), lot('B', '9')], today);
		expect(cells.map((c) => c.picks.map((p) => `${p.number} ${p.qty}`))).toEqual([['A 1', 'B 2'], ['A 3']]);
	});
	it('nothing is taken twice, nothing over, and nothing of what was left out, whatever was chosen', () => {
		fc.assert(
			fc.property(
				fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 4 }),
				fc.array(fc.integer({ min: 1, max: 12 }), { minLength: 1, maxLength: 5 }),
				fc.array(fc.tuple(fc.nat(3), fc.nat(4), fc.nat(3)), { maxLength: 6 }),
				(needs, lots, choices) => {
					const stock = lots.map((q, i) => lot(`L${i}`, String(q)));
					const chosen = choices
						.filter(([u, l]) => u < needs.length && l < lots.length)
						.map(([u, l, qty]) => pick(`u${u}`, `L${l}`, String(qty)));
					const wanted = needs.map((n, i) => ({ unit: `u${i}`, need: String(n) }));
					const { cells } = fillCells(wanted, chosen, stock, today);
					for (const c of cells) {
						const by = (id: boolean) => c.picks.filter((p) => (p.id !== null) === id);
						const said = total(by(true).map((p) => p.qty));
						expect(c.short).toBe(rest(c.need, total([said, ...by(false).map((p) => p.qty)])));
						if (by(false).length) expect(less(c.need, total(c.picks.map((p) => p.qty)))).toBe(false);
						for (const p of by(false))
							expect(by(true).some((x) => x.mark === p.mark && x.place === p.place)).toBe(false);
					}
					for (const s of stock) {
						const of = (id: boolean) =>
							total(cells.flatMap((c) => c.picks.flatMap((p) => (p.mark === s.mark && !!p.id === id ? [p.qty] : []))));
						expect(less(rest(s.qty, of(true)), of(false))).toBe(false);
					}
				}
			)
		);
	});
	it('what is taken and what is short make the need, cell by cell', () => {
		fc.assert(
			fc.property(
				fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 8 }),
				fc.array(fc.integer({ min: 1, max: 15 }), { maxLength: 6 }),
				(needs, lots) => {
					const { cells } = fillCells(
						needs.map((n, i) => ({ unit: `u${i}`, need: String(n) })),
						[],
						lots.map((q, i) => lot(`L${i}`, String(q))),
						today
					);
					cells.forEach((c) => expect(sub(c.need, c.short)).toBe(total(c.picks.map((p) => p.qty))));
					const firstShort = cells.findIndex((c) => c.short !== '0');
					if (firstShort >= 0) expect(cells.slice(firstShort + 1).every((c) => less('0', c.short))).toBe(true);
				}
			)
		);
	});
});
