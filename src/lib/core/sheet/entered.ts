import { total, type Qty } from '../quantity/quantity.ts';
import type { Cell, SheetRow } from './sheet.ts';

const readable = (qty: string) => /^\d+(\.\d+)?$/.test(qty);

/** How much some rows enter in all; what cannot be read is nothing. */
export const enteredIn = (rows: readonly Pick<SheetRow, 'qty'>[]): Qty =>
	total(rows.flatMap((r) => (readable(r.qty) ? [r.qty] : [])));
/** How much is picked in all. */
export const pickedIn = (cells: readonly Pick<Cell, 'picks'>[]): Qty =>
	total(cells.flatMap((c) => c.picks.flatMap((p) => (readable(p.qty) ? [p.qty] : []))));
