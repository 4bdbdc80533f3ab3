import Fraction from 'fraction.js';
import { exact, type Qty } from '../quantity/quantity.ts';

/** What one base unit of an item weighs, in kilograms, and how large it is, in centimetres; null for what nobody said. */
export interface Measures {
	net: Qty | null;
	gross: Qty | null;
	length: Qty | null;
	width: Qty | null;
	height: Qty | null;
	/** as it is given, where it is not worked out */
	volumetric: Qty | null;
}
/** A way of delivery, as far as it weighs and asks. */
export interface Way {
	code: string;
	name: string;
	/** cm³ that count as a kilogram; null for the firm's */
	divisor: number | null;
	/** for a kilogram of chargeable weight */
	rate: Qty | null;
	minimum: Qty | null;
	currency: string;
}
/** Weights in kilograms; null for what is not known of it. */
export interface Weights {
	pieces: Qty;
	net: Qty | null;
	gross: Qty | null;
	volumetric: Qty | null;
	/** the larger of gross and volumetric */
	chargeable: Qty | null;
}
/** What a document weighs: each line, and all of it. */
export interface Weighed {
	lines: (Weights & { no: number })[];
	total: Weights;
	/** lines that nobody has weighed or measured: they are in no total */
	unknown: number[];
	divisor: number;
	way: { code: string; name: string } | null;
	carriage: Carriage | null;
}
/** What a way of delivery asks for it. */
export interface Carriage {
	amount: Qty;
	currency: string;
	/** what it asks at least is more than the rate comes to */
	minimum: boolean;
}

/**
 * The volumetric weight of one base unit, in kilograms: length × width × height in cm³ by the cm³ that count as one
 * kilogram (common practice: 3,000 to 6,000 by carrier), or as it was given.
 * @returns null where it is neither given nor measured
 */
export function volumetric(m: Measures, divisor: number): Fraction | null {
	if (m.volumetric !== null) return new Fraction(m.volumetric);
	if (m.length === null || m.width === null || m.height === null) return null;
	return new Fraction(m.length).mul(m.width).mul(m.height).div(divisor);
}

type Sums = Record<'net' | 'gross' | 'volumetric', Fraction | null>;
/** Grams are fine enough to be shown, and a third of a kilogram has no end. */
const shown = (f: Fraction | null): Qty | null => (f === null ? null : exact(f.round(6)));
const larger = (a: Fraction | null, b: Fraction | null) => (a === null ? b : b === null ? a : a.compare(b) < 0 ? b : a);
const weights = (pieces: Fraction, s: Sums): Weights => ({
	pieces: exact(pieces),
	net: shown(s.net),
	gross: shown(s.gross),
	volumetric: shown(s.volumetric),
	chargeable: shown(larger(s.gross, s.volumetric))
});

/**
 * What some lines weigh, each and together. A total counts what is known; what is not is named.
 * @param lines with how many base units each
 * @param firm cm³ that count as a kilogram where the way says nothing
 */
export function weigh(
	lines: readonly { no: number; qty: Qty; measures: Measures }[],
	way: Way | null,
	firm: number
): Weighed {
	const divisor = way?.divisor ?? firm;
	const sum = { net: null, gross: null, volumetric: null } as Sums;
	let pieces = new Fraction(0);
	const unknown: number[] = [];
	const each = lines.map(({ no, qty, measures }) => {
		const of = (one: Fraction | Qty | null) => (one === null ? null : new Fraction(one).mul(qty));
		const own: Sums = {
			net: of(measures.net),
			gross: of(measures.gross ?? measures.net),
			volumetric: of(volumetric(measures, divisor))
		};
		pieces = pieces.add(qty);
		for (const k of ['net', 'gross', 'volumetric'] as const)
			if (own[k]) sum[k] = (sum[k] ?? new Fraction(0)).add(own[k]);
		if (!own.gross && !own.volumetric) unknown.push(no);
		return { no, ...weights(new Fraction(qty), own) };
	});
	const total = weights(pieces, sum);
	return {
		lines: each,
		total,
		unknown,
		divisor,
		way: way && { code: way.code, name: way.name },
		carriage: way ? carriage(larger(sum.gross, sum.volumetric), way) : null
	};
}

/** What a way of delivery asks: the chargeable weight by its rate, at least its minimum; to the hundredth. */
export function carriage(chargeable: Fraction | null, way: Way): Carriage | null {
	if (way.rate === null || chargeable === null) return null;
	const by = chargeable.mul(way.rate);
	const least = new Fraction(way.minimum ?? 0);
	const minimum = by.compare(least) < 0;
	return { amount: exact((minimum ? least : by).round(2)), currency: way.currency, minimum };
}
