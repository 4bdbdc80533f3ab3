import Fraction from 'fraction.js';

/*
 * fraction.js's own arithmetic for two fractions, for replays of thousands of movements: it spends most of its time on
 * reading arguments that may be text or floats, and on reducing what is whole already. Held against it in the tests.
 */

/** Nothing. */
export const ZERO = new Fraction(0);

/** A fraction without the library's reading of what it is made from. */
class Made {
	readonly s: bigint;
	readonly n: bigint;
	readonly d: bigint;
	constructor(s: bigint, n: bigint, d: bigint) {
		this.s = s;
		this.n = n;
		this.d = d;
	}
}
Object.setPrototypeOf(Made.prototype, Fraction.prototype);

function made(n: bigint, d: bigint): Fraction {
	if (n === 0n) return ZERO;
	const s = n < 0n ? -1n : 1n;
	n = n < 0n ? -n : n;
	if (d !== 1n) {
		let [a, b] = [n, d];
		while (b) [a, b] = [b, a % b];
		n /= a;
		d /= a;
	}
	return new Made(s, n, d) as Fraction;
}

/** The part above the line with its sign. */
const signed = (a: Fraction): bigint => (a.s < 0n ? -a.n : a.n);

/** Whether it is nothing. */
export const isNone = (a: Fraction): boolean => a.n === 0n;

/** The sum, in lowest terms; quicker than the library’s, which a trace adds a million times. */
export function plus(a: Fraction, b: Fraction): Fraction {
	if (b.n === 0n) return a;
	if (a.n === 0n) return b;
	return a.d === b.d ? made(signed(a) + signed(b), a.d) : made(signed(a) * b.d + signed(b) * a.d, a.d * b.d);
}

/** The difference, in lowest terms. */
export function minus(a: Fraction, b: Fraction): Fraction {
	if (b.n === 0n) return a;
	return a.d === b.d ? made(signed(a) - signed(b), a.d) : made(signed(a) * b.d - signed(b) * a.d, a.d * b.d);
}

/** Whether two are the same number. */
export const same = (a: Fraction, b: Fraction): boolean => a.n === b.n && a.d === b.d && (a.s === b.s || a.n === 0n);

/** Is a more than b? */
export const above = (a: Fraction, b: Fraction): boolean =>
	a.d === b.d ? signed(a) > signed(b) : signed(a) * b.d > signed(b) * a.d;

/** a × b ÷ c; c is not zero. Zero times anything costs nothing. */
export function part(a: Fraction, b: Fraction, c: Fraction): Fraction {
	if (a.n === 0n) return a;
	if (same(b, c)) return a;
	return made(a.s * b.s * c.s * a.n * b.n * c.d, a.d * b.d * c.n);
}

/** Reads quantities, each text once: most of a trace share a few of them, and fractions never change. */
export function quantityReader(): (qty: string) => Fraction {
	const known = new Map<string, Fraction>();
	return (qty) => {
		let f = known.get(qty);
		if (!f) known.set(qty, (f = new Fraction(qty)));
		return f;
	};
}
