import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { allocate } from './allocate.ts';
import { fillCells, type Stock } from './cells.ts';
import { layPromises, type Promised } from './promises.ts';

const TODAY = '2026-11-24';
const row = (mark: string, place: string, qty: number): Stock => ({
	...{ mark, number: `L${mark}`, lot: null, place, qty: String(qty), serial: false, kind: 'lot' },
	...{ expiresOn: null, status: 'released', since: `2026-01-0${mark}`, facts: {}, lotFacts: null }
});
const promise = (id: string, qty: number, more: Partial<Promised> = {}): Promised => ({
	...{ id, order: `SO-${id}`, line: id, site: 'QS', qty: String(qty) },
	...more
});
const stocks = fc
	.uniqueArray(
		fc.record({
			mark: fc.constantFrom('1', '2', '3'),
			place: fc.constantFrom('QS/A1', 'QS/B2', 'KN/A1'),
			qty: fc.integer({ min: 1, max: 9 })
		}),
		{ selector: (r) => r.mark + r.place }
	)
	.map((rows) => rows.map((r) => row(r.mark, r.place, r.qty)));
const promises = fc.array(
	fc.record({
		mark: fc.constantFrom('1', '2', '3'),
		qty: fc.integer({ min: 1, max: 12 }),
		site: fc.constantFrom('QS', 'KN', null)
	}),
	{ maxLength: 4 }
);
const sum = (list: (string | undefined)[]) => list.reduce((s, q) => s + Number(q ?? 0), 0);

describe('what is promised to others', () => {
	it('is not free: all of it, as far as there is stock, and no more of any place than stands there', () => {
		fc.assert(
			fc.property(stocks, promises, (stock, list) => {
				const of = new Map<string, Promised[]>();
				list.forEach((p, i) =>
					of.set(p.mark, [...(of.get(p.mark) ?? []), promise(String(i), p.qty, { site: p.site })])
				);
				const laid = layPromises(stock, of);
				for (const s of laid) expect(Number(s.promised ?? 0)).toBeLessThanOrEqual(Number(s.qty));
				for (const mark of ['1', '2', '3']) {
					const there = laid.filter((s) => s.mark === mark);
					const asked = sum((of.get(mark) ?? []).map((p) => p.qty));
					expect(sum(there.map((s) => s.promised))).toBe(Math.min(asked, sum(there.map((s) => s.qty))));
				}
				// What is free of a mark is what nobody was promised, whoever asks and however much.
				const { picks } = allocate('999', laid, TODAY);
				for (const mark of ['1', '2', '3']) {
					const free =
						sum(stock.filter((s) => s.mark === mark).map((s) => s.qty)) - sum((of.get(mark) ?? []).map((p) => p.qty));
					expect(sum(picks.filter((p) => p.mark === mark).map((p) => p.qty))).toBe(Math.max(0, free));
				}
			})
		);
	});
	it('lies at the site of its order first, and there on what would be taken last', () => {
		const stock = [row('1', 'QS/A1', 5), row('1', 'QS/B2', 5), row('1', 'KN/A1', 5)];
		const held = (qty: number, site: string | null) =>
			layPromises(stock, new Map([['1', [promise('7', qty, { site })]]])).map((s) => s.promised ?? '0');
		expect(held(3, 'QS')).toEqual(['0', '3', '0']);
		expect(held(7, 'QS')).toEqual(['2', '5', '0']);
		expect(held(6, 'KN')).toEqual(['0', '1', '5']);
		expect(held(99, 'QS')).toEqual(['5', '5', '5']);
	});
	it('says to whom, beside whoever picked from it', () => {
		const [s] = layPromises(
			[{ ...row('1', 'QS/A1', 9), promised: '2', promisedTo: 'picked for SO-9' }],
			new Map([['1', [promise('1', 4), promise('2', 3)]]])
		);
		expect(s).toMatchObject({ promised: '9', promisedTo: 'picked for SO-9, promised to SO-1, promised to SO-2' });
		expect(allocate('1', [s], TODAY).leftOut).toMatchObject([
			{ reason: 'promised', message: 'picked for SO-9, promised to SO-1, promised to SO-2' }
		]);
	});
});

describe('what is promised to the line itself', () => {
	const own = (line: string, qty: number) => [promise('1', qty, { line })];
	const stock = [row('1', 'QS/A1', 5), { ...row('2', 'QS/A1', 5), own: own('mine', 3) }, row('3', 'QS/A1', 5)];
	const picks = (need: string, line: string, of = stock) =>
		fillCells([{ unit: null, need }], [], of, TODAY, { line }).cells[0].picks.map((p) => [p.number, p.qty, p.why]);
	it('goes before all the rest, and no more of it than was promised', () => {
		expect(picks('2', 'mine')).toEqual([['L2', '2', 'promised']]);
		expect(picks('4', 'mine')).toEqual([
			['L2', '3', 'promised'],
			['L1', '1', 'first in']
		]);
		// After what came in first there is still some of the same lot: it is one pick.
		expect(picks('10', 'mine')).toEqual([
			['L2', '5', 'promised'],
			['L1', '5', 'first in']
		]);
	});
	it('stays for it where another line of its order asks', () => {
		expect(picks('99', 'other')).toEqual([
			['L1', '5', 'first in'],
			['L2', '2', 'first in'],
			['L3', '5', 'first in']
		]);
	});
	it('never makes more go than is asked, or than there is', () => {
		fc.assert(
			fc.property(stocks, promises, fc.integer({ min: 1, max: 30 }), (rows, list, need) => {
				const of = new Map<string, Promised[]>();
				list.forEach((p, i) =>
					of.set(p.mark, [...(of.get(p.mark) ?? []), promise(String(i), p.qty, { line: i % 2 ? 'mine' : 'other' })])
				);
				const with_ = rows.map((r) => ({ ...r, own: of.get(r.mark) }));
				const [cell] = fillCells([{ unit: null, need: String(need) }], [], with_, TODAY, { line: 'mine' }).cells;
				expect(sum(cell.picks.map((p) => p.qty)) + Number(cell.short)).toBe(need);
				for (const p of cell.picks)
					expect(Number(p.qty)).toBeLessThanOrEqual(
						Number(rows.find((r) => r.mark === p.mark && r.place === p.place)!.qty)
					);
				expect(new Set(cell.picks.map((p) => p.mark + p.place)).size).toBe(cell.picks.length);
			})
		);
	});
});
