import { less, sub, total, type Qty } from '../quantity/quantity.ts';

/** A line of what goes into each unit. */
export interface PartLine {
	id: string;
	no: number;
	item: string;
	itemId: string;
	itemName: string;
	unit: string;
	decimals: number;
	/** which number is asked when it is used; none: it needs no scan, and is used with the output */
	tracking: 'none' | 'lot' | 'serial' | 'lot and serial';
	/** how much of it goes into one unit, exact */
	per: Qty;
	/** what it looks like: the SHA-256 of a file */
	picture?: string | null;
}
/** A part that was put into a unit. */
export interface Put {
	lineId: string;
	mark: string;
	qty: Qty;
}
/** A line of a unit's parts, with how much of it is in. */
export interface Slot<P extends Put = Put> {
	line: PartLine;
	puts: P[];
	in: Qty;
	/** still missing; 0 when it is full */
	left: Qty;
}

/** What is in each line of a unit. What was put in for a line that is none of them is left out. */
export const slotsOf = <P extends Put>(lines: readonly PartLine[], puts: readonly P[]): Slot<P>[] =>
	lines.map((line) => {
		const mine = puts.filter((p) => p.lineId === line.id);
		const sum = total(mine.map((p) => p.qty));
		return { line, puts: mine, in: sum, left: less(sum, line.per) ? sub(line.per, sum) : '0' };
	});

/** Is a part of the line scanned, and not only used with the output? */
export const isScanned = (line: Pick<PartLine, 'tracking'>): boolean => line.tracking !== 'none';

/**
 * The slot that a part of an item goes into, whatever the order of scanning: the first that still wants some.
 * @returns null when each slot of the item is full, or none wants it
 */
export const slotFor = <P extends Put>(slots: readonly Slot<P>[], itemId: string): Slot<P> | null =>
	slots.find((s) => s.line.itemId === itemId && isScanned(s.line) && s.left !== '0') ?? null;

/** Are all parts in that have a number to scan? */
export const isComplete = (slots: readonly Slot[]): boolean => slots.every((s) => !isScanned(s.line) || s.left === '0');
