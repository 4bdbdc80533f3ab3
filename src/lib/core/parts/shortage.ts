import { less, sub, total, type Qty } from '../quantity/quantity.ts';

/** What open orders need of an item, and what there is of it. */
export interface Need {
	item: string;
	itemName: string;
	unit: string;
	decimals: number;
	/** it has a parts list: it is made, not bought */
	made: boolean;
	/** the orders that need it, and how much each */
	orders: { code: string; qty: Qty; dueOn: string | null }[];
	/** on hand, released, in date when it is needed, and held by no other order */
	free: Qty;
	/** ordered or being made, and there by then */
	expected: Qty;
	/** who it was ordered from last */
	supplier: string | null;
}
/** A need with how much of it is missing. */
export interface Short extends Need {
	needed: Qty;
	missing: Qty;
}

/** What is missing of each item: what is needed, less what is free, less what is expected by then; never below zero. */
export const shortOf = (needs: readonly Need[]): Short[] =>
	needs.map((n) => {
		const needed = total(n.orders.map((o) => o.qty));
		const there = total([n.free, n.expected]);
		return { ...n, needed, missing: less(there, needed) ? sub(needed, there) : '0' };
	});
