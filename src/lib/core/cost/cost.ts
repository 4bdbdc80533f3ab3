import { parseQty, type Qty } from '../quantity/quantity.ts';

/** Unit costs keep so many decimals, in the firm's currency. */
export const COST_DECIMALS = 6;

/** What a cost is proposed from, the nearest first. */
export const GROUNDS = ['own', 'lot', 'item'] as const;
/** One of them. */
export type Ground = (typeof GROUNDS)[number];

/** What one of something would cost, and why: by the last that is noted of it. */
export interface Proposal {
	/** of one base unit of its item */
	cost: Qty;
	/** in words: "its own, PO-1, 3 Mar 2026" */
	ground: string;
}

/**
 * Reads what one costs, as it is typed: decimal text without a sign; zero is a cost too.
 * @returns at most six decimals, or what is wrong with it and how to mend it
 */
export function parseCost(typed: string): { cost: Qty } | { problem: string } {
	const text = typed.trim();
	if (/^0+(\.0*)?$/.test(text)) return { cost: '0' };
	const read = parseQty(text, COST_DECIMALS);
	return 'qty' in read
		? { cost: read.qty }
		: {
				problem: `The cost of one cannot be read: ${text.slice(0, 20) || 'nothing'}. Type it as 12.50, with at most six decimals.`
			};
}

const WORDS: Record<Ground, string> = { own: 'its own', lot: 'of its lot', item: 'the item’s last' };
/** Where a proposal comes from, in words: what it is a cost of, and by which document of which day. */
export const sayGround = (ground: Ground, document: string, on: string): string =>
	`${WORDS[ground]}, ${document}, ${on}`;
