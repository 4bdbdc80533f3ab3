import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { nearest, slips } from './near.ts';

describe('numbers that come near', () => {
	it.each([
		['WM-0207', 'WM-0207', 0],
		['wm-0207', 'WM-0207', 0],
		['WM-O2O7', 'WM-0207', 0],
		['WM-I2l7', 'WM-1217', 0],
		['WM-0208', 'WM-0207', 1],
		['WM-027', 'WM-0207', 1],
		['WM-02007', 'WM-0207', 1],
		['WM-0270', 'WM-0207', 1],
		['MW-0270', 'WM-0207', 2],
		['QR-26-0417', 'WM-0207', 3],
		['', 'AB', 2]
	])('“%s” is %s with %i slips', (typed, number, n) => expect(slips(typed, number)).toBe(n));
	// Worked in the literature on edit distance: kitten to sitting takes three.
	it('counts as the published example does', () => expect(slips('kitten', 'sitting', 5)).toBe(3));
	it('is the same either way, and none from a number to itself', () => {
		const word = fc.string({ maxLength: 8, unit: fc.constantFrom('A', 'B', '0', 'O', '1', 'I', '-') });
		fc.assert(
			fc.property(word, word, (a, b) => {
				expect(slips(a, b, 9)).toBe(slips(b, a, 9));
				expect(slips(a, a)).toBe(0);
			})
		);
	});
	it('one slip of any kind is found, the fewest slips first', () => {
		const number = fc.stringMatching(/^[A-Z]{2}-[2-9]{4}$/);
		fc.assert(
			fc.property(number, fc.nat(6), (n, at) => {
				const left = n.slice(0, at) + n.slice(at + 1);
				const swapped = n.slice(0, at) + (n[at + 1] ?? '') + n[at] + n.slice(at + 2);
				const wrong = n.slice(0, at) + '#' + n.slice(at + 1);
				for (const typed of [left, swapped, wrong]) expect(slips(typed, n)).toBeLessThanOrEqual(1);
			})
		);
		expect(nearest('A12', ['B99', 'A31', 'A13', 'A12'], (x) => x)).toEqual(['A12', 'A13', 'A31']);
	});
});
