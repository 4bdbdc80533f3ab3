import Fraction from 'fraction.js';
import { plus, ZERO } from '../quantity/fractions.ts';
import { exact, sub, type Qty } from '../quantity/quantity.ts';
import type { Level } from './levels.ts';

/** What really went in, by item, level by level. */
export interface Went {
	/** code */
	item: string;
	qty: Fraction;
	/** numbers that it was of */
	marks: Set<string>;
	parts: Map<string, Went>;
}
/** Nothing yet of an item. */
export const nothingOf = (item: string): Went => ({ item, qty: ZERO, marks: new Set(), parts: new Map() });

/** What came out of a run: how much of it, and what one unit holds where its item says so. */
export interface Output {
	qty: Qty;
	holds: Qty | null;
	holdsUnit: string | null;
}
/**
 * How much of a batch is in some of what came out of it: by content where every output states one in the same unit, else by
 * quantity, as a trace spreads what went in.
 * @param mine of one output, and so much of it
 */
export function shareOf(outputs: readonly Output[], mine: Output): Fraction {
	const [first] = outputs;
	const measured = outputs.every((o) => o.holds && o.holdsUnit === first.holdsUnit);
	const size = (o: Output) => (measured ? new Fraction(o.qty).mul(o.holds!) : new Fraction(o.qty));
	const all = outputs.reduce((sum, o) => plus(sum, size(o)), ZERO);
	return all.n === 0n ? ZERO : size(mine).div(all);
}

/** A line of a parts list beside what really went in. */
export interface Compared {
	item: string;
	level: number;
	/** by the parts list as it is today, for what was made; null where it does not name the item here */
	planned: Qty | null;
	/** null where nothing of it is recorded */
	real: Qty | null;
	/** real − planned, where both are there */
	more: Qty | null;
	/** how many numbers it was of */
	numbers: number;
}
/** No unit is kept finer than to six decimals; a share may go on for ever. */
const written = (f: Fraction) => exact(f.round(6));

/**
 * Sets a parts list by levels beside what really went in, item by item under the same item: first what is planned, in its
 * order, then what is in it besides.
 */
export function compare(planned: readonly Level[], real: Went): Compared[] {
	const out: Compared[] = [];
	const line = (item: string, level: number, plan: Qty | null, went: Went | undefined) => {
		const is = went ? written(went.qty) : null;
		const more = plan !== null && is !== null ? sub(is, plan) : null;
		out.push({ item, level, planned: plan, real: is, more, numbers: went?.marks.size ?? 0 });
	};
	const besides = (went: Went | undefined, named: ReadonlySet<string>, level: number) => {
		for (const w of went?.parts.values() ?? []) {
			if (named.has(w.item)) continue;
			line(w.item, level, null, w);
			besides(w, new Set(), level + 1);
		}
	};
	let at = 0;
	const visit = (went: Went | undefined, level: number) => {
		const named = new Set<string>();
		while (at < planned.length && planned[at].level === level) {
			const l = planned[at++];
			named.add(l.item);
			const below = went?.parts.get(l.item);
			line(l.item, level, l.total, below);
			visit(below, level + 1);
		}
		besides(went, named, level);
	};
	visit(real, 1);
	return out;
}
