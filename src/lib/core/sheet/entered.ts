import { isPicked, namesStock, type Kind, type LineRole } from '../document/kinds.ts';
import { isSome, isZero, total, type Qty } from '../quantity/quantity.ts';
import { pickState, type Cell, type PickState, type SheetRow } from './sheet.ts';

const readable = (qty: string) => /^\d+(\.\d+)?$/.test(qty);

/** How much some rows enter in all; what cannot be read is nothing. */
export const enteredIn = (rows: readonly Pick<SheetRow, 'qty'>[]): Qty =>
	total(rows.flatMap((r) => (readable(r.qty) ? [r.qty] : [])));
/** How much is picked in all. */
export const pickedIn = (cells: readonly Pick<Cell, 'picks'>[]): Qty =>
	total(cells.flatMap((c) => c.picks.flatMap((p) => (readable(p.qty) ? [p.qty] : []))));

/** How much of what goes is only suggested, how much was chosen, and how much is picked. */
export function statesIn(cells: readonly Pick<Cell, 'picks'>[]): Record<PickState, Qty> {
	const all = cells.flatMap((c) => c.picks.filter((p) => readable(p.qty)));
	const of = (state: PickState) => total(all.flatMap((p) => (pickState(p) === state ? [p.qty] : [])));
	return { suggested: of('suggested'), chosen: of('chosen'), picked: of('picked') };
}

/** Lines of which something is only suggested, with how much: nobody has looked at that. Of kinds that are not picked none. */
export const notLookedAt = <L extends { role: LineRole; cells: readonly Pick<Cell, 'picks'>[] }>(
	kind: Kind,
	lines: readonly L[]
): { line: L; qty: Qty }[] =>
	isPicked(kind)
		? lines.flatMap((line) => {
				const qty = namesStock(kind, line.role) ? statesIn(line.cells).suggested : '0';
				return isZero(qty) ? [] : [{ line, qty }];
			})
		: [];

/** Is anything chosen or picked? */
export const isNamed = (lines: readonly { cells: readonly Pick<Cell, 'picks'>[] }[]): boolean =>
	lines.some((l) => l.cells.some((c) => c.picks.some((p) => p.id && isSome(p.qty))));
