import Fraction from 'fraction.js';
import { plus, quantityReader, ZERO } from './fractions.ts';
import { grouped, isPlain, unreadable, written } from './sign.ts';

/** A decimal number as text, as PostgreSQL's numeric gives it. Never a float. */
export type Qty = string;

/**
 * Reads a quantity as it is kept, or as `typedNumber` left it.
 * @param decimals how many decimals the item's unit has
 * @returns the quantity without superfluous zeros, or what is wrong with it
 */
export function parseQty(text: string, decimals: number, unit = ''): { qty: Qty } | { problem: string } {
	const t = text.trim();
	if (!t) return { problem: 'Type a quantity.' };
	if (t.startsWith('-') && isPlain(t)) return { problem: `${cut(t)} is below zero. A quantity is more than zero.` };
	if (!isPlain(t)) return { problem: unreadable(t, 'a quantity') };
	const [whole, rest = ''] = t.split('.');
	const places = rest.replace(/0+$/, '');
	if (whole.replace(/^0+/, '').length > 12) return { problem: `${cut(t)} is more than Earmark can hold.` };
	if (places.length > decimals)
		return {
			problem: decimals
				? `${cut(t)} has ${places.length} decimals; ${unit || 'this unit'} has ${decimals}.`
				: `${cut(t)} is not a whole number; ${unit || 'this unit'} comes in whole pieces.`
		};
	const qty = (whole.replace(/^0+(?=\d)/, '') || '0') + (places ? '.' + places : '');
	if (/^0(\.0*)?$/.test(qty)) return { problem: 'A quantity is more than zero.' };
	return { qty };
}
const cut = (t: string) => (t.length > 20 ? t.slice(0, 20) + '…' : written(t));

/** Whole pieces, which most quantities are, as a number that holds them and their sums exactly; null of anything else. */
const pieces = (q: Qty): number | null => (q.length < 16 && /^\d+$/.test(q) ? Number(q) : null);
/** Counts whole pieces without fractions, and everything else with them. */
const both = <T>(a: Qty, b: Qty, whole: (a: number, b: number) => T, parts: (a: Fraction, b: Qty) => T): T => {
	const [x, y] = [pieces(a), pieces(b)];
	return x !== null && y !== null ? whole(x, y) : parts(new Fraction(a), b);
};
/** The exact sum of two quantities of one unit. */
export const add = (a: Qty, b: Qty): Qty =>
	both(
		a,
		b,
		(x, y) => String(x + y),
		(x, y) => exact(x.add(y))
	);
/** The exact difference; below zero where b is more. */
export const sub = (a: Qty, b: Qty): Qty =>
	both(
		a,
		b,
		(x, y) => String(x - y),
		(x, y) => exact(x.sub(y))
	);
/** Whether a is less than b. */
export const less = (a: Qty, b: Qty): boolean =>
	both(
		a,
		b,
		(x, y) => x < y,
		(x, y) => x.compare(y) < 0
	);
/** Whether it is nothing. */
export const isZero = (a: Qty): boolean => a === '0' || new Fraction(a).n === 0n;
/** Is it decimal text of more than nothing? What was typed into a sheet may be anything. */
export const isSome = (typed: string): boolean => /^\d+(\.\d+)?$/.test(typed) && !isZero(typed);
/** The exact sum of a list; "0" of none. */
export function total(list: readonly Qty[]): Qty {
	// Of thousands most say what others say.
	const read = quantityReader();
	return exact(list.reduce((sum, qty) => plus(sum, read(qty)), ZERO));
}

/** A fraction whose decimals end, as decimal text; one that never ends is cut at 12 decimals. */
export function exact(f: Fraction): Qty {
	const t = f.toString(12);
	return /\(/.test(t) ? f.round(12).toString(12) : t;
}

/** Decimals that a quantity is held to at most. */
const PLACES = 12;
const ONE = 10n ** BigInt(PLACES);
/**
 * A quantity as a whole number of its smallest parts (10⁻¹²): where a hundred thousand are added up and compared, this is as
 * exact as fractions and ten times as fast.
 */
export function partsOf(q: Qty): bigint {
	const dot = q.indexOf('.');
	return dot < 0 ? BigInt(q) * ONE : BigInt(q.slice(0, dot) + q.slice(dot + 1, dot + 1 + PLACES).padEnd(PLACES, '0'));
}
/** The quantity of so many smallest parts. */
export function ofParts(parts: bigint): Qty {
	const [sign, size] = parts < 0n ? ['-', -parts] : ['', parts];
	const rest = size % ONE;
	return sign + String(size / ONE) + (rest ? '.' + String(rest).padStart(PLACES, '0').replace(/0+$/, '') : '');
}

/** For people: grouped thousands, at most `decimals` places, no superfluous zeros. */
export function show(qty: Qty, decimals = 6): string {
	// Most are written out already, with no more places than are shown: nothing to round.
	const plain = /^(?:0|-?[1-9]\d*)(?:\.(\d+))?$/.exec(qty);
	const text =
		plain && (plain[1] ?? '').length <= decimals ? qty : new Fraction(qty).round(decimals).toString(decimals);
	return grouped(
		text
			.replace(/[()]/g, '')
			.replace(/(\.\d*?)0+$/, '$1')
			.replace(/\.$/, '')
	);
}

/** Shares of a whole are shown with so many decimals at most, where that is more than its unit has. */
const MOST_SHARE_DECIMALS = 3;
/**
 * With how many decimals shares are told apart: those of the unit where they are whole in it, else as many as make them exact,
 * three at most. A third of five pieces is 1.667, not now one and now two.
 */
export function shareDecimals(shares: readonly Fraction[], decimals: number): number {
	for (let d = decimals; d < MOST_SHARE_DECIMALS; d++) {
		const scale = 10n ** BigInt(d);
		if (shares.every(({ n, d: of }) => (n * scale) % of === 0n)) return d;
	}
	return Math.max(decimals, MOST_SHARE_DECIMALS);
}

/**
 * Rounds shares so that the shown figures add up to the shown total: largest remainder method (Hamilton's,
 * common practice).
 * @returns each share with `decimals` places, as text
 */
export function roundToTotal(shares: readonly Fraction[], decimals: number): Qty[] {
	const scale = 10n ** BigInt(decimals);
	const sum = shares.reduce(plus, ZERO).mul(scale).round();
	let left = sum.s * sum.n;
	// By hand: there may be as many shares as numbers, and each would be several fractions.
	const floors: bigint[] = [];
	const rests: { i: number; over: bigint; under: bigint }[] = [];
	for (const [i, { s, n, d }] of shares.entries()) {
		const whole = s * n * scale;
		const cut = whole / d;
		const floor = cut * d > whole ? cut - 1n : cut;
		floors.push(floor);
		rests.push({ i, over: whole - floor * d, under: d });
		left -= floor;
	}
	if (left > 0n) {
		rests.sort((a, b) => Number(b.over * a.under - a.over * b.under));
		for (const { i } of rests.slice(0, Number(left))) floors[i] += 1n;
	}
	return floors.map((f) => scaledText(f, decimals));
}
/** So many units of the last of some decimals, as text without zeros at its end: 2500 of three is 2.5. */
function scaledText(units: bigint, decimals: number): Qty {
	const digits = String(units < 0n ? -units : units).padStart(decimals + 1, '0');
	const at = digits.length - decimals;
	const after = digits.slice(at).replace(/0+$/, '');
	return `${units < 0n ? '-' : ''}${digits.slice(0, at)}${after && '.'}${after}`;
}
/** The exact product. */
export const mul = (a: Qty, b: Qty): Qty => exact(new Fraction(a).mul(b));
/** The smaller of two quantities. */
export const least = (a: Qty, b: Qty): Qty => (less(a, b) ? a : b);
/** a − b, but not below zero. */
export const rest = (a: Qty, b: Qty): Qty => (less(a, b) ? '0' : sub(a, b));
/** a ÷ b; one that never ends is cut at 12 decimals. b is not zero. */
export const div = (a: Qty, b: Qty): Qty => exact(new Fraction(a).div(b));
/** A quantity in a sentence: "5 kg", and plain "40" for pieces, whose unit says nothing. */
export const amount = (qty: Qty, unit: string): string => (unit === 'each' ? show(qty) : `${show(qty)} ${unit}`);
/** How many of `each` it takes to hold at least `whole`, to so many decimals: 25 of 3, with none, is 9. */
export const roundUp = (whole: Qty, each: Qty, decimals: number): Qty =>
	exact(new Fraction(whole).div(each).ceil(decimals));
/** How many of `each` fit into `whole`, to so many decimals: of 25 kg 8 packs of 3 kg. */
export const roundDown = (whole: Qty, each: Qty, decimals: number): Qty =>
	exact(new Fraction(whole).div(each).floor(decimals));
