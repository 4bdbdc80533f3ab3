import { randomUUID } from 'node:crypto';
import { LONG, sent, type Remembered, type SentSheet } from '../../core/sheet/sent.ts';
import type { SheetState } from '../../core/sheet/sheet.ts';
import { less, rest, total } from '../../core/quantity/quantity.ts';
import type { Order } from '../document/orders.ts';

/** Is a sheet long: by the pieces that its lines ask numbers for, or by the rows that are entered? */
export const isLong = (order: Order, rows: number): boolean =>
	rows > LONG ||
	less(String(LONG), total(order.lines.filter((l) => l.carries.includes('serial')).map((l) => rest(l.qty, l.done))));

/** What long sheets were when they were sent, by what the page calls that; the oldest are forgotten. */
const remembered = new Map<string, Remembered>();
/** Sheets that are remembered at once. */
const MOST_SHEETS = 12;

/**
 * A sheet as it goes to a page: of a long one only what changed.
 * @param known what the page has, by the name that it was given with it; null for nothing
 */
export function sheetSent(state: SheetState, known: string | null): SentSheet {
	if (!state.long) return sent(state, null, null).sent;
	const was = known ? remembered.get(known) : undefined;
	const is = randomUUID();
	const told = sent(state, was ? { is: known!, remembered: was } : null, is);
	if (was) remembered.delete(known!);
	remembered.set(is, told.remembered);
	for (const [oldest] of remembered) {
		if (remembered.size <= MOST_SHEETS) break;
		remembered.delete(oldest);
	}
	return told.sent;
}
