import cdigit from 'cdigit';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
	CHECK_METHODS,
	capacity,
	faultsOf,
	inWords,
	readBack,
	render,
	scope,
	type Block,
	type Context
} from './pattern.ts';

const c: Context = { day: '2026-11-24', item: 'WM', site: 'QS', line: 'LINE2' };
const seq = (digits: number, reset: 'never' | 'year' | 'month' | 'week' | 'day' = 'never'): Block => ({
	kind: 'sequence',
	digits,
	reset
});
const text = (t: string): Block => ({ kind: 'text', text: t });
const year: Block = { kind: 'year', digits: 2 };

describe('a number', () => {
	it.each<[string, Block[], number]>([
		['WM-0037', [text('WM-'), seq(4)], 37],
		['CR-26W48-1', [text('CR-'), year, text('W'), { kind: 'week' }, text('-'), seq(1, 'week')], 1],
		['2026328-009', [{ kind: 'year', digits: 4 }, { kind: 'year day' }, text('-'), seq(3, 'day')], 9],
		[
			'WM/QS/LINE2/261124/05',
			[
				{ kind: 'item' },
				text('/'),
				{ kind: 'site' },
				text('/'),
				{ kind: 'line' },
				text('/'),
				year,
				{ kind: 'month' },
				{ kind: 'day' },
				text('/'),
				seq(2, 'day')
			],
			5
		],
		[`AB0001${cdigit.mod37_36.compute('AB0001')}`, [text('AB'), seq(4), { kind: 'check', method: 'MOD 37,36' }], 1],
		[`7-000123${cdigit.luhn.compute('7000123')}`, [text('7-'), seq(6), { kind: 'check', method: 'Luhn' }], 123],
		[`7-000123${cdigit.mod11_2.compute('7000123')}`, [text('7-'), seq(6), { kind: 'check', method: 'MOD 11-2' }], 123],
		[`7-000123${cdigit.mod97_10.compute('7000123')}`, [text('7-'), seq(6), { kind: 'check', method: 'MOD 97-10' }], 123]
	])('%s is built, and read back to what its blocks say', (want, blocks, n) => {
		expect(render(blocks, c, n)).toBe(want);
		expect(readBack(blocks, want)).toMatchObject({ sequence: n });
	});
	it('takes the year of the week beside a week (ISO 8601: 2027-01-01 lies in 2026-W53)', () => {
		const blocks: Block[] = [year, text('W'), { kind: 'week' }, text('-'), seq(3, 'week')];
		expect(render(blocks, { ...c, day: '2027-01-01' }, 1)).toBe('26W53-001');
		expect(scope(blocks, { ...c, day: '2027-01-01' })).toBe(scope(blocks, { ...c, day: '2026-12-28' }));
		expect(scope(blocks, { ...c, day: '2027-01-04' })).not.toBe(scope(blocks, { ...c, day: '2027-01-01' }));
	});
	it('says in words what its blocks say', () => {
		const blocks: Block[] = [year, text('W'), { kind: 'week' }, text('-'), { kind: 'line' }, text('-'), seq(3, 'week')];
		expect(inWords(readBack(blocks, '27W14-LINE2-037') as never)).toBe(
			'drawn in week 14 of 2027, line LINE2, number 37'
		);
	});
	it('no two draws of a pattern without faults are ever the same', () => {
		const block = fc.oneof(
			fc.constantFrom<Block>(
				year,
				{ kind: 'month' },
				{ kind: 'day' },
				{ kind: 'week' },
				{ kind: 'year day' },
				text('-'),
				text('X')
			),
			fc.constant<Block>({ kind: 'year', digits: 4 })
		);
		const pattern = fc
			.tuple(
				fc.array(block, { maxLength: 5 }),
				fc.nat(5),
				fc.constantFrom('never', 'year', 'month', 'week', 'day'),
				fc.constantFrom(null, ...CHECK_METHODS)
			)
			.map(([list, at, reset, checked]): Block[] => [
				...list.slice(0, at),
				seq(3, reset as 'never'),
				...list.slice(at),
				...(checked ? [{ kind: 'check', method: checked } as Block] : [])
			]);
		const day = fc
			.date({ min: new Date('2026-01-01'), max: new Date('2031-12-31'), noInvalidDate: true })
			.map((d) => d.toISOString().slice(0, 10));
		fc.assert(
			fc.property(pattern, fc.array(day, { minLength: 2, maxLength: 30 }), (blocks, days) => {
				fc.pre(!faultsOf(blocks).length);
				const counters = new Map<string, number>();
				const given = days.sort().map((d) => {
					const key = scope(blocks, { ...c, day: d });
					counters.set(key, (counters.get(key) ?? 0) + 1);
					return render(blocks, { ...c, day: d }, counters.get(key)!);
				});
				expect(new Set(given).size).toBe(given.length);
				for (const g of given) expect(readBack(blocks, g)).not.toHaveProperty('problem');
			}),
			{ numRuns: 500 }
		);
	});
});

describe('what does not fit', () => {
	const blocks: Block[] = [text('WM-'), seq(4), { kind: 'check', method: 'MOD 37,36' }];
	it('is said: length, signs, check character', () => {
		const good = render(blocks, c, 7);
		const wrong = good.slice(0, -1) + (good.endsWith('0') ? '1' : '0');
		expect((readBack(blocks, 'WM-12') as { problem: string }).problem).toContain(
			'5 characters; numbers of this pattern have 8'
		);
		expect((readBack(blocks, 'XX-00011') as { problem: string }).problem).toContain('does not fit');
		expect((readBack(blocks, wrong) as { problem: string }).problem).toContain('wrong check character');
	});
	it('is said of a pattern', () => {
		expect(faultsOf([text('A')])[0]).toContain('exactly one sequence');
		expect(faultsOf([year, seq(3, 'week')])[0]).toContain('numbers would repeat');
		expect(faultsOf([text('a b'), seq(3)])[0]).toContain('without blanks');
		expect(faultsOf([{ kind: 'check', method: 'Luhn' }, seq(3)])[0]).toContain('comes last');
		expect(faultsOf([text('WM-'), seq(4)])).toEqual([]);
	});
	it('a sequence that has run out is refused', () => {
		expect(capacity([seq(2)])).toBe(99);
		expect(() => render([seq(2)], c, 100)).toThrow('used up');
	});
});
