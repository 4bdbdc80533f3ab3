import { add, isZero, least, less, rest, total } from '../quantity/quantity.ts';
import type { Noted, Progress, SheetLine } from './sheet.ts';

/**
 * How far a sale has come: its goods, its payment and its numbers go each their own way.
 * @param lines those that sell nothing are left out
 */
export function progressOf(lines: readonly SheetLine[], noted: readonly Noted[]): Progress {
	const sold = lines.filter((l) => l.sold);
	const whole = (qty: (l: SheetLine) => string) => sold.length > 0 && sold.every((l) => !less(qty(l), l.qty));
	const some = (qty: (l: SheetLine) => string) => sold.some((l) => !isZero(qty(l)));
	const handed = (l: SheetLine) => l.sold!.handed;
	const numbered = sold.filter((l) => l.sold!.numbered);
	const given = numbered.filter((l) => isZero(numbersToCome(l)));
	const begun = numbered.some((l) => less(numbersToCome(l), l.qty));
	return {
		goods: whole(handed)
			? 'handed over'
			: some(handed)
				? 'partly handed over'
				: some((l) => l.sold!.waits)
					? 'staged'
					: 'to ship',
		payment: noted.some((n) => n.what === 'payment' && !n.withdrawn) ? 'noted' : 'none noted',
		numbers: !numbered.length
			? 'none asked'
			: given.length === numbered.length
				? 'assigned'
				: begun
					? 'partly assigned'
					: 'to assign'
	};
}

/** How much of a line has no number yet: nothing went, waits, is chosen or is promised for it. */
export function numbersToCome(line: SheetLine): string {
	const { sold } = line;
	if (!sold?.numbered) return '0';
	const chosen = total(
		line.cells.flatMap((c) => c.picks.filter((p) => p.id && /^\d+(\.\d+)?$/.test(p.qty)).map((p) => p.qty))
	);
	const promised = total(line.promises.filter((p) => !p.over).map((p) => p.rest));
	const inHand = add(sold.waits, chosen);
	// What is promised is mostly what is picked: the larger of both counts.
	return rest(line.qty, add(sold.handed, less(inHand, promised) ? promised : least(inHand, line.qty)));
}

/** How much of a line has moved for good: shipped or received, not what only waits to go. */
export const movedOf = (line: SheetLine): string => line.sold?.handed ?? line.done;
