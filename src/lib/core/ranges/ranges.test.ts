import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { before, compare, compress, expand, filledWords, gaps, next, parseFill, text, type Filled } from './ranges.ts';
import { readColumn } from './column.ts';

describe('numbers that follow one another', () => {
	it.each([
		['A9', 'A10'],
		['A099', 'A100'],
		['PW-0098', 'PW-0099'],
		['PW-9999', 'PW-10000'],
		['7b', '8b'],
		['26W46-A19x', '26W46-A20x'],
		['00000000000000000000001', '00000000000000000000002'],
		['ABC', null]
	])('%s is followed by %s', (a, b) => expect(next(a)).toBe(b));

	it('a first number and a count make a run', () => {
		const run = expand('PW-0098', 40);
		expect([run[0], run[2], run[39], run.length]).toEqual(['PW-0098', 'PW-0100', 'PW-0137', 40]);
		expect(() => expand('ABC', 2)).toThrow('no digits');
		expect(() => expand('A1', 0)).toThrow(RangeError);
		expect(() => expand('A1', 100_001)).toThrow(RangeError);
	});
	it('sorts A9 before A10, and keeps series together', () => {
		expect(['B1', 'A10', 'A9', 'A09', 'A9b'].sort(compare)).toEqual(['A9', 'A09', 'A9b', 'A10', 'B1']);
		const digits = fc.stringMatching(/^[0-9]{1,20}$/);
		fc.assert(
			fc.property(
				fc.constantFrom('', 'A', 'A1-', 'Ä'),
				digits,
				digits,
				fc.constantFrom('', 'b', '-x'),
				(head, a, b, tail) => {
					const values = BigInt(a) - BigInt(b);
					const wanted = values === 0n ? a.length - b.length : values < 0n ? -1 : 1;
					expect(Math.sign(compare(head + a + tail, head + b + tail))).toBe(Math.sign(wanted));
				}
			)
		);
	});
});

describe('the numbers before one', () => {
	it.each([
		['A10', ['A09', 'A9']],
		['A9', ['A8']],
		['A099', ['A098']],
		['PW-0100b', ['PW-0099b']],
		['A0', []],
		['none', []]
	])('%s follows %s', (number, all) => expect(before(number)).toEqual(all));
	it('are those that it is the next of', () => {
		fc.assert(
			fc.property(fc.integer({ min: 0, max: 2000 }), fc.integer({ min: 1, max: 6 }), (n, width) => {
				const one = `L${String(n).padStart(width, '0')}`;
				expect(before(next(one)!)).toContain(one);
			})
		);
	});
});

describe('ranges', () => {
	it.each([
		[['PW-0001', 'PW-0003', 'PW-0002'], ['PW-0001 … PW-0003']],
		[
			['A9', 'A10', 'A11', 'A13'],
			['A9 … A11', 'A13']
		],
		[
			['1a', '2a', '2b'],
			['1a … 2a', '2b']
		],
		[
			['X', 'X', 'Y'],
			['X', 'Y']
		],
		[[], []]
	])('%j shows as %j', (numbers, want) => {
		expect(compress(numbers).map(text)).toEqual(want);
	});
	it('A9 and A09 are two numbers, and A10 stands once', () => {
		expect(compress(['A09', 'A10', 'A9']).reduce((n, r) => n + r.count, 0)).toBe(3);
	});
	it('shows what is missing between', () => {
		expect(gaps(compress(['V1', 'V2', 'V5', 'V9', 'W1'])).map(text)).toEqual(['V3 … V4', 'V6 … V8']);
	});

	const number = fc
		.record({
			head: fc.constantFrom('', 'A', 'PW-', '26W-'),
			n: fc.integer({ min: 0, max: 1200 }),
			width: fc.integer({ min: 1, max: 4 }),
			tail: fc.constantFrom('', 'b', '-X')
		})
		.map((r) => r.head + String(r.n).padStart(r.width, '0') + r.tail);
	it('expand gives back exactly what compress took', () => {
		fc.assert(
			fc.property(fc.array(number, { maxLength: 60 }), (numbers) => {
				const ranges = compress(numbers);
				const back = ranges.flatMap((r) => expand(r.first, r.count));
				expect([...back].sort()).toEqual([...new Set(numbers)].sort());
				for (const r of ranges) expect(next(r.first, r.count - 1)).toBe(r.last);
			})
		);
	});
	it('a run compresses to one range, and a run without one number to two with that gap', () => {
		fc.assert(
			fc.property(number, fc.integer({ min: 3, max: 400 }), fc.nat(), (first, count, at) => {
				const run = expand(first, count);
				expect(compress(run)).toEqual([{ first, last: run[count - 1], count }]);
				const out = run.splice(1 + (at % (count - 2)), 1);
				expect(gaps(compress(run))).toEqual([{ first: out[0], last: out[0], count: 1 }]);
			})
		);
	});
});

describe('what is typed into the number field', () => {
	const run = (first: string, count = 1, step?: number) => ({ first, count, ...(step ? { step } : {}) });
	it.each([
		['PW-0098, 40', [run('PW-0098', 40)]],
		['PW-0098;40', [run('PW-0098', 40)]],
		['PW-0098, 40, 2', [run('PW-0098', 40, 2)]],
		[' PW-0098 ', [run('PW-0098')]],
		['PW-0098 … PW-0137', [run('PW-0098', 40)]],
		['PW-0098..PW-0137', [run('PW-0098', 40)]],
		['PW-0098 to PW-0137', [run('PW-0098', 40)]],
		// After a comma: text with letters, or digits as wide as the first number's, is another number.
		['1001, 1002', [run('1001', 2)]],
		['1001, 1003', [run('1001'), run('1003')]],
		['1001, 40', [run('1001', 40)]],
		['1001, 1001', [run('1001'), run('1001')]],
		['VB2, VB3', [run('VB2', 2)]],
		['VB2, VB5, 3', [run('VB2'), run('VB5', 3)]],
		['A1, 5', [run('A1', 5)]],
		['A1, 05', [run('A1'), run('05')]],
		['PW-0098, 40, PX-1', [run('PW-0098', 40), run('PX-1')]],
		['VB2..VB4, VB9', [run('VB2', 3), run('VB9')]],
		['VB2,', [run('VB2')]]
	])('%s', (typed, runs) => expect(parseFill(typed)).toEqual({ runs, count: runs.reduce((n, r) => n + r.count, 0) }));
	it('says what was understood before it is entered', () => {
		const words = (typed: string) => filledWords(parseFill(typed) as Exclude<Filled, { problem: string }>);
		expect(words('PW-0098, 40')).toBe('40: PW-0098 … PW-0137');
		expect(words('1001, 1002')).toBe('2: 1001, 1002');
		expect(words('PW-0098, 3, 2')).toBe('3: PW-0098 … PW-0102 in steps of 2');
		expect(words('A-1, 3, B, C, D, E')).toBe('7: A-1 … A-3, B, C, D and more');
	});
	it.each([
		['', 'Type a number'],
		['PW-1 … QX-3', 'not of one series'],
		['A5..A3', 'Turn them round'],
		['A8..A010', 'another width'],
		['ABC, 3', 'no digits to count on from'],
		['A1, 0', 'holds 1 to'],
		['A1, 999999', 'holds 1 to'],
		['A 1', 'has a blank'],
		['x'.repeat(10_000), 'at most 60 characters']
	])('refuses %.20s', (typed, why) => expect((parseFill(typed) as { problem: string }).problem).toContain(why));
});

describe('a pasted column', () => {
	it('keeps order and duplicates, leaves blanks out, makes runs of what follows', () => {
		const pasted = 'VB-1\r\nVB-2\r\n\r\nVB-2\r\n  \r\nVB-3\r\nVB-10, 3\r\n';
		expect(readColumn(pasted, { tracking: 'serial', decimals: 0 })).toEqual({
			rows: [
				{ serial: 'VB-1', count: 2 },
				{ serial: 'VB-2', count: 2 },
				{ serial: 'VB-10', count: 3 }
			],
			numbers: 7,
			blanks: 2
		});
	});
	it('reads lot, quantity and expiry from a spreadsheet’s columns', () => {
		expect(readColumn('C-611\t60\t2027-03-31\nC-612\t40', { tracking: 'lot', decimals: 0 }).rows).toEqual([
			{ lot: 'C-611', qty: '60', expiresOn: '2027-03-31' },
			{ lot: 'C-612', qty: '40' }
		]);
		expect(readColumn('L1\tS-1\nL1\tS-2\nL2\tS-3', { tracking: 'lot and serial', decimals: 0 }).rows).toEqual([
			{ lot: 'L1', serial: 'S-1', count: 2 },
			{ lot: 'L2', serial: 'S-3', count: 1 }
		]);
	});
	it('ten thousand consecutive numbers are one row', () => {
		expect(readColumn(expand('S-00001', 10_000).join('\n'), { tracking: 'serial', decimals: 0 }).rows).toEqual([
			{ serial: 'S-00001', count: 10_000 }
		]);
	});
});

describe('runs with a step', () => {
	it.each([
		['PW-0098, 3, 2', { first: 'PW-0098', count: 3, step: 2 }, ['PW-0098', 'PW-0100', 'PW-0102']],
		['A9;4;5', { first: 'A9', count: 4, step: 5 }, ['A9', 'A14', 'A19', 'A24']],
		['PW-1, 3, 1', { first: 'PW-1', count: 3 }, ['PW-1', 'PW-2', 'PW-3']],
		['PW-1, 1, 7', { first: 'PW-1', count: 1 }, ['PW-1']]
	] as const)('%s', (typed, want, numbers) => {
		const f = parseFill(typed);
		expect(f).toEqual({ runs: [want], count: want.count });
		if (!('problem' in f)) expect(f.runs.flatMap((r) => expand(r.first, r.count, r.step))).toEqual(numbers);
	});
	it.each([
		['PW-1, 3, 0', 'A step is 1 to 10,000'],
		['PW-1, 3, 20000', 'this asks for 20000'],
		['PWX, 3, 2', 'no digits to count on']
	])('%s is refused', (typed, why) => {
		const f = parseFill(typed);
		expect('problem' in f && f.problem).toContain(why);
	});
	it('take every so manieth of the run without', () => {
		fc.assert(
			fc.property(fc.nat(9999), fc.integer({ min: 1, max: 60 }), fc.integer({ min: 1, max: 20 }), (n, count, step) => {
				const first = `S-${String(n).padStart(3, '0')}`;
				expect(expand(first, count, step)).toEqual(
					expand(first, (count - 1) * step + 1).filter((_, i) => i % step === 0)
				);
			})
		);
	});
});
