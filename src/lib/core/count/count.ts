import Fraction from 'fraction.js';
import { exact, isZero, less, sub, type Qty } from '../quantity/quantity.ts';

/** What was counted of one mark at one place, as far as a difference is worked out of it. */
export interface Counted {
	mark: string;
	kind: 'lot' | 'serial' | 'unmarked';
	place: string;
	/** what the ledger said at that moment */
	expected: Qty;
	counted: Qty;
}
/** A movement that makes the ledger say what was counted. */
export interface Mend {
	mark: string;
	qty: Qty;
	from: string;
	to: string;
	/** what it came of: the place and mark that were counted */
	of: Counted;
}
const ADJUST = '@adjust';

/** Counted less expected; negative where less is there. In the item's base unit. */
export const differenceOf = (c: Pick<Counted, 'expected' | 'counted'>): Fraction =>
	new Fraction(c.counted).sub(c.expected);

/**
 * The movements that lay differences on the ledger. Of a lot, and of stock without a number, so much comes from or goes to
 * adjustments as was found more or less. A serial is one thing: found where the ledger does not have it, it comes from where
 * the ledger has it now; missing at one place and found at another is one movement; missing where it does not stand any more
 * is none.
 * @param stands the place where the ledger has a serial now, by its mark; nothing where it is at no place of the firm
 */
export function mendsOf(rows: readonly Counted[], stands: ReadonlyMap<string, string>): Mend[] {
	const found = new Set(rows.filter((r) => r.kind === 'serial' && !isZero(r.counted)).map((r) => r.mark));
	return rows.flatMap((of): Mend[] => {
		const { mark, place } = of;
		const more = differenceOf(of);
		if (more.n === 0n) return [];
		if (of.kind !== 'serial')
			return more.s > 0n
				? [{ mark, qty: exact(more), from: ADJUST, to: place, of }]
				: [{ mark, qty: exact(more.neg()), from: place, to: ADJUST, of }];
		const now = stands.get(mark);
		if (more.s > 0n) return now === place ? [] : [{ mark, qty: '1', from: now ?? ADJUST, to: place, of }];
		return now === place && !found.has(mark) ? [{ mark, qty: '1', from: place, to: ADJUST, of }] : [];
	});
}

/**
 * Does a difference want a second count?
 * @param limit the firm's, in per cent of what was expected; null where it never does. What was not expected at all always does
 */
export function wantsSecond(c: Pick<Counted, 'expected' | 'counted'>, limit: Qty | null): boolean {
	const off = differenceOf(c).abs();
	if (limit === null || off.n === 0n) return false;
	return isZero(c.expected) || off.mul(100).compare(new Fraction(limit).mul(c.expected)) > 0;
}

/** A lot at a place, of an item of which only the total was counted. The first is the one that should be taken first. */
export interface LotThere {
	mark: string;
	expected: Qty;
}
/** What is laid on a lot of a difference: more (positive) or less (negative). */
export interface Laid {
	mark: string;
	change: string;
}
/**
 * A proposal for laying a difference on lots: what is missing was most likely taken from the lot that goes first, and never
 * more than there is of each; what is too much belongs most likely to the lot that came last (common practice).
 * @returns the change of each lot, as signed decimal text; what no lot can bear is left over, and the sum falls short
 */
export function proposeLots(total: Qty, lots: readonly LotThere[]): Laid[] {
	let left = new Fraction(total).sub(lots.reduce((s, l) => s.add(l.expected), new Fraction(0)));
	const changes = lots.map((l, n) => {
		if (left.n === 0n) return '0';
		if (left.s > 0n) {
			if (n < lots.length - 1) return '0';
			const change = left;
			left = new Fraction(0);
			return signed(change);
		}
		const most = new Fraction(l.expected);
		const take = left.neg().compare(most) < 0 ? left.neg() : most;
		left = left.add(take);
		return signed(take.neg());
	});
	return lots.map((l, n) => ({ mark: l.mark, change: changes[n] }));
}
const signed = (f: Fraction) => (f.s < 0n && f.n !== 0n ? `-${exact(f.neg())}` : exact(f));

/**
 * What of each lot was counted, where a total was laid on them by hand.
 * @returns the counted quantity of each lot; or what is wrong: it does not add up, or a lot would be below zero
 */
export function layTotal(
	total: Qty,
	lots: readonly LotThere[],
	laid: readonly Laid[]
): { counted: { mark: string; expected: Qty; counted: Qty }[] } | { problem: string } {
	const changes = new Map(laid.map((l) => [l.mark, new Fraction(l.change)]));
	const counted: { mark: string; expected: Qty; counted: Qty }[] = [];
	let sum = new Fraction(0);
	for (const l of lots) {
		const now = new Fraction(l.expected).add(changes.get(l.mark) ?? 0);
		if (now.s < 0n && now.n !== 0n)
			return { problem: `A lot of which ${l.expected} are expected cannot lose more than that.` };
		sum = sum.add(now);
		counted.push({ mark: l.mark, expected: l.expected, counted: exact(now) });
	}
	const off = new Fraction(total).sub(sum);
	if (off.n === 0n) return { counted };
	return {
		problem: `What is laid on the lots adds up to ${exact(sum)}, and ${total} were counted: ${less(exact(sum), total) ? sub(total, exact(sum)) + ' more' : sub(exact(sum), total) + ' less'} to lay.`
	};
}
