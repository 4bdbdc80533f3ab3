import fc from 'fast-check';
import Fraction from 'fraction.js';
import { describe, expect, it } from 'vitest';
import {
	add,
	amount,
	div,
	exact,
	least,
	less,
	mul,
	parseQty,
	rest,
	roundToTotal,
	show,
	sub,
	total
} from './quantity.ts';

describe('a quantity', () => {
	it.each([
		['12.5', 3, '12.5'],
		[' 1250.50 ', 2, '1250.5'],
		['0012', 0, '12'],
		['5.000', 0, '5']
	])('%s with %i decimals is %s', (typed, decimals, want) => expect(parseQty(typed, decimals)).toEqual({ qty: want }));
	it.each([
		['', 'Type a quantity'],
		['-3', 'below zero'],
		['0', 'more than zero'],
		['0.000', 'more than zero'],
		['1.2345', '4 decimals; kg has 3'],
		['1,5', 'decimals come after a point here. Type 1.5'],
		['1 000', 'as programs write it: 1000'],
		['1e3', 'is not a quantity'],
		['abc', 'is not a quantity'],
		['9'.repeat(13), 'more than Earmark can hold'],
		['7'.repeat(10_000), 'more than Earmark can hold']
	])('refuses %.12s', (typed, why) => {
		const { problem } = parseQty(typed, 3, 'kg') as { problem: string };
		expect(problem).toContain(why);
		expect(problem.length).toBeLessThan(120);
	});
	it('says that pieces are whole', () =>
		expect(parseQty('1.5', 0, 'each')).toEqual({ problem: '1.5 is not a whole number; each comes in whole pieces.' }));
});

describe('exact arithmetic', () => {
	it('has none of the float’s errors', () => {
		expect(add('0.1', '0.2')).toBe('0.3');
		expect(sub('1', '0.9')).toBe('0.1');
		expect(total(Array(10).fill('0.1'))).toBe('1');
		expect(mul('0.03', '420')).toBe('12.6');
		expect(div('1', '3')).toBe('0.333333333333');
		expect([least('2', '10'), rest('3', '5'), less('9', '10')]).toEqual(['2', '0', true]);
	});
	it('decimals in, decimals out, whatever the size', () => {
		const decimal = fc
			.tuple(fc.bigInt({ min: 0n, max: 10n ** 15n }), fc.integer({ min: 0, max: 6 }))
			.map(([n, d]) => exact(new Fraction(n, 10n ** BigInt(d))));
		fc.assert(
			fc.property(decimal, decimal, (a, b) => {
				expect(sub(add(a, b), b)).toBe(a);
			})
		);
	});
	it.each([
		['1234567.5', 6, '1,234,567.5'],
		['0.12345678', 3, '0.123'],
		['1000', 0, '1,000']
	])('%s is shown as %3$s', (q, d, want) => expect(show(q, d)).toBe(want));
	it('shows what is written out already as it shows what it has to round', () =>
		fc.assert(
			fc.property(fc.bigInt({ min: -(10n ** 12n), max: 10n ** 12n }), fc.nat(6), fc.nat(6), (n, places, decimals) => {
				const exactly = new Fraction(n, 10n ** BigInt(places));
				const [whole, rest = ''] = exactly.round(decimals).toString(6).split('.');
				const shown =
					Number(whole).toLocaleString('en') === '0' && whole.startsWith('-')
						? '-0'
						: Number(whole).toLocaleString('en');
				expect(show(exactly.toString(6), decimals)).toBe(rest ? `${shown}.${rest}` : shown);
			})
		));
	it('in a sentence', () => expect([amount('40', 'each'), amount('2.5', 'kg')]).toEqual(['40', '2.5 kg']));
});

describe('rounded shares', () => {
	it('add up to the rounded total, each within one unit of itself', () => {
		const share = fc
			.tuple(fc.integer({ min: -9999, max: 9999 }), fc.integer({ min: 1, max: 97 }))
			.map(([n, d]) => new Fraction(n, d));
		fc.assert(
			fc.property(
				fc.array(share, { minLength: 1, maxLength: 30 }),
				fc.integer({ min: 0, max: 4 }),
				(shares, decimals) => {
					const shown = roundToTotal(shares, decimals);
					const sum = shares.reduce((s, x) => s.add(x), new Fraction(0));
					expect(new Fraction(total(shown)).equals(sum.round(decimals))).toBe(true);
					const unit = new Fraction(1n, 10n ** BigInt(decimals));
					shown.forEach((q, i) => expect(new Fraction(q).sub(shares[i]).abs().compare(unit)).toBeLessThan(1));
				}
			)
		);
	});
	it('what is left over goes to the largest remainders, not to the smallest or the first', () => {
		// 10 over 1.2, 3.3 and 5.5 with no decimals: 1, 3 and 5 leave one for the remainder of .5.
		const shares = ['1.2', '3.3', '5.5'].map((q) => new Fraction(q));
		expect(roundToTotal(shares, 0)).toEqual(['1', '3', '6']);
		expect(roundToTotal([new Fraction('0.4'), new Fraction('0.6')], 0)).toEqual(['0', '1']);
		expect(roundToTotal([new Fraction('0.6'), new Fraction('0.4')], 0)).toEqual(['1', '0']);
	});
	it('three thirds of 100 are 33.34, 33.33 and 33.33', () => {
		expect(roundToTotal(Array(3).fill(new Fraction(100, 3)), 2)).toEqual(['33.34', '33.33', '33.33']);
	});
});
