import { add, mul, type Qty } from '../quantity/quantity.ts';

/** One line of a parts list: so much of the part goes into one of the item. */
export interface PartLine {
	/** codes */
	item: string;
	part: string;
	/** decimal text, in the part's unit */
	qty: Qty;
}
/** One line of a parts list by levels. */
export interface Level {
	/** codes: of this line, and of the line that it stands below */
	item: string;
	of: string;
	/** 1 next to the item that is looked at */
	level: number;
	/** down: in one of the line above it. Up: of the line above in one of this. Decimal text. */
	qty: Qty;
	/** multiplied along the way: down, for all that is made; up, of the item that is looked at in one of this */
	total: Qty;
	/** nothing goes into it (down), or it goes into nothing (up) */
	last: boolean;
}
/** The most lines: lists that share their parts may grow without end. */
export const MOST_LEVELS = 2000;

/** Walks lines from an item, the deepest first, each as often as a way leads to it. */
function walk(from: string, times: Qty, next: ReadonlyMap<string, { item: string; qty: Qty }[]>): Level[] {
	const out: Level[] = [];
	const visit = (item: string, have: Qty, level: number, above: ReadonlySet<string>) => {
		for (const n of next.get(item) ?? []) {
			// What would contain itself is refused where lists are kept; here it ends.
			if (out.length >= MOST_LEVELS || above.has(n.item)) continue;
			const total = mul(have, n.qty);
			out.push({ item: n.item, of: item, level, qty: n.qty, total, last: !next.get(n.item)?.length });
			visit(n.item, total, level + 1, new Set([...above, n.item]));
		}
	};
	visit(from, times, 1, new Set([from]));
	return out;
}
const grouped = (lines: readonly PartLine[], by: 'item' | 'part') => {
	const map = new Map<string, { item: string; qty: Qty }[]>();
	for (const l of lines) {
		const list = map.get(l[by]) ?? [];
		list.push({ item: by === 'item' ? l.part : l.item, qty: l.qty });
		map.set(l[by], list);
	}
	return map;
};

/** What goes into an item, to the bottom, for so many of it. */
export const levelsDown = (lines: readonly PartLine[], item: string, times: Qty = '1'): Level[] =>
	walk(item, times, grouped(lines, 'item'));

/** What an item goes into, to the top, with how much of it is in one of each. */
export const levelsUp = (lines: readonly PartLine[], item: string): Level[] => walk(item, '1', grouped(lines, 'part'));

/** Of levels down: what is needed in all of what is not made of anything, by item. */
export function needed(levels: readonly Level[]): Map<string, Qty> {
	const sums = new Map<string, Qty>();
	for (const l of levels) if (l.last) sums.set(l.item, add(sums.get(l.item) ?? '0', l.total));
	return sums;
}
