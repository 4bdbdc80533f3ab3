import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { layTotal, mendsOf, proposeLots, wantsSecond, type Counted } from './count.ts';

const row = (mark: string, place: string, expected: number, counted: number, kind: Counted['kind'] = 'lot') => ({
	...{ mark, kind, place },
	expected: String(expected),
	counted: String(counted)
});
const short = (rows: Counted[], stands: [string, string][] = []) =>
	mendsOf(rows, new Map(stands)).map((m) => `${m.mark} ${m.qty} ${m.from} → ${m.to}`);

describe('differences', () => {
	it('of lots come from and go to adjustments', () =>
		expect(short([row('L', 'A', 5, 7), row('M', 'A', 5, 2), row('N', 'B', 5, 5)])).toEqual([
			'L 2 @adjust → A',
			'M 3 A → @adjust'
		]));
	it('of a serial: missing, found where the ledger has it elsewhere, or at no place of the firm', () => {
		expect(short([row('S', 'A', 1, 0, 'serial')], [['S', 'A']])).toEqual(['S 1 A → @adjust']);
		expect(short([row('S', 'B', 0, 1, 'serial')], [['S', 'A']])).toEqual(['S 1 A → B']);
		expect(short([row('S', 'B', 0, 1, 'serial')])).toEqual(['S 1 @adjust → B']);
		// Missing here and found there is one movement, whichever was counted first.
		const both = [row('S', 'A', 1, 0, 'serial'), row('S', 'B', 0, 1, 'serial')];
		expect(short(both, [['S', 'A']])).toEqual(['S 1 A → B']);
		expect(short([...both].reverse(), [['S', 'A']])).toEqual(['S 1 A → B']);
		// Meanwhile somebody booked what was found.
		expect(short([row('S', 'B', 0, 1, 'serial')], [['S', 'B']])).toEqual([]);
		expect(short([row('S', 'A', 1, 0, 'serial')], [['S', 'C']])).toEqual([]);
	});
	it('laid on the ledger make it say what was counted, whatever was booked since', () =>
		fc.assert(
			fc.property(
				fc.array(
					fc.record({
						mark: fc.integer({ min: 1, max: 6 }),
						place: fc.constantFrom('A', 'B'),
						expected: fc.nat(50),
						counted: fc.nat(50),
						since: fc.integer({ min: -5, max: 5 })
					}),
					{ maxLength: 12 }
				),
				(list) => {
					const rows = [...new Map(list.map((l) => [`${l.mark} ${l.place}`, l])).values()];
					const now = new Map(rows.map((r) => [`${r.mark} ${r.place}`, r.expected + r.since]));
					for (const m of mendsOf(
						rows.map((r) => row(String(r.mark), r.place, r.expected, r.counted)),
						new Map()
					)) {
						if (m.from !== '@adjust') now.set(`${m.mark} ${m.from}`, now.get(`${m.mark} ${m.from}`)! - Number(m.qty));
						if (m.to !== '@adjust') now.set(`${m.mark} ${m.to}`, now.get(`${m.mark} ${m.to}`)! + Number(m.qty));
					}
					for (const r of rows) expect(now.get(`${r.mark} ${r.place}`)).toBe(r.counted + r.since);
				}
			)
		));
});

it.each([
	[100, 100, '0', false],
	[100, 95, '5', false],
	[100, 94, '5', true],
	[100, 106, '5', true],
	[0, 1, '5', true],
	[1, 0, '5', true],
	[3, 1, null, false]
] as const)('expected %d, counted %d, limit %s: second count %s', (expected, counted, limit, wants) =>
	expect(wantsSecond({ expected: String(expected), counted: String(counted) }, limit)).toBe(wants)
);

describe('a total that was counted', () => {
	const lots = [
		{ mark: 'OLD', expected: '4' },
		{ mark: 'MID', expected: '10' },
		{ mark: 'NEW', expected: '6' }
	];
	it('is laid on the lot that goes first where it is less, on the last where it is more', () => {
		expect(proposeLots('15', lots).map((l) => l.change)).toEqual(['-4', '-1', '0']);
		expect(proposeLots('22.5', lots).map((l) => l.change)).toEqual(['0', '0', '2.5']);
		expect(proposeLots('20', lots).map((l) => l.change)).toEqual(['0', '0', '0']);
	});
	it('must add up, and leaves no lot below zero', () => {
		expect(layTotal('15', lots, [{ mark: 'MID', change: '-5' }])).toEqual({
			counted: [
				{ mark: 'OLD', expected: '4', counted: '4' },
				{ mark: 'MID', expected: '10', counted: '5' },
				{ mark: 'NEW', expected: '6', counted: '6' }
			]
		});
		expect(layTotal('15', lots, [{ mark: 'MID', change: '-4' }])).toEqual({
			problem: 'What is laid on the lots adds up to 16, and 15 were counted: 1 less to lay.'
		});
		expect(layTotal('15', lots, [{ mark: 'OLD', change: '-5' }])).toMatchObject({
			problem: expect.stringContaining('cannot lose more')
		});
	});
	it('as it is proposed always adds up, for every total and every stock', () =>
		fc.assert(
			fc.property(fc.array(fc.nat(1000), { minLength: 1, maxLength: 8 }), fc.nat(5000), (have, total) => {
				const there = have.map((q, n) => ({ mark: String(n), expected: String(q / 8) }));
				expect(layTotal(String(total / 8), there, proposeLots(String(total / 8), there))).toHaveProperty('counted');
			})
		));
});
