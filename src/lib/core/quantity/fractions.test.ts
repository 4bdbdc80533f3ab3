import fc from 'fast-check';
import Fraction from 'fraction.js';
import { describe, expect, it } from 'vitest';
import { above, minus, part, plus, same } from './fractions.ts';

// Reference: fraction.js itself.
const fraction = fc
	.tuple(
		fc.bigInt({ min: -(10n ** 30n), max: 10n ** 30n }),
		fc.oneof(fc.constant(1n), fc.bigInt({ min: 1n, max: 10n ** 20n }))
	)
	.map(([n, d]) => new Fraction(n, d));
const equal = (a: Fraction, b: Fraction) => expect([a.s * a.n, a.d]).toEqual([b.s * b.n, b.d]);

describe('fractions without reading of arguments', () => {
	it('give what fraction.js gives, in lowest terms', () => {
		fc.assert(
			fc.property(fraction, fraction, fraction, (a, b, c) => {
				equal(plus(a, b), a.add(b));
				equal(minus(a, b), a.sub(b));
				equal(minus(a, a), new Fraction(0));
				if (c.n !== 0n) equal(part(a, b, c), a.mul(b).div(c));
				expect(above(a, b)).toBe(a.compare(b) > 0);
				expect(same(a, b)).toBe(a.equals(b));
				expect(same(plus(minus(a, b), b), a)).toBe(true);
			})
		);
	});
});
