import { group } from '../group/group.ts';
import { isSome, total, type Qty } from '../quantity/quantity.ts';
import { compare, compress, text } from '../ranges/ranges.ts';
import { pickState, promisedTo, type PickRow, type PickState, type SheetLine } from './sheet.ts';

/** One thing to take from a bin: a lot, or serials of which the same is said. */
export interface Stop {
	place: string;
	no: number;
	item: string;
	itemName: string;
	unit: string;
	kind: PickRow['kind'];
	/** serials as ranges; empty for stock without a number */
	numbers: string[];
	first: string;
	last: string;
	count: number;
	lot: string | null;
	qty: Qty;
	expiresOn: string | null;
	/** picked is what somebody has in hand */
	state: PickState;
	/** id of its line, and what it is made of */
	line: string;
	of: PickRow[];
	/** it is promised to the line */
	promised: boolean;
}

const STATES: readonly PickState[] = ['suggested', 'chosen', 'picked'];

/**
 * The way through the bins for what goes: bin by bin in the natural order of their codes, in each line by line; consecutive
 * serials as ranges. What is picked already stands at its bin too.
 */
export function walkOf(lines: readonly SheetLine[]): Stop[] {
	const rows = lines.flatMap((line) =>
		line.cells.flatMap((c) => c.picks.filter((p) => isSome(p.qty)).map((p) => ({ line, p })))
	);
	const promised = new Map(lines.map((l) => [l.id, promisedTo(l)]));
	const alike = group(rows, ({ line, p }) =>
		JSON.stringify([
			p.place,
			line.no,
			p.kind,
			p.lot,
			p.expiresOn,
			pickState(p),
			promised.get(line.id)!.has(p.mark),
			p.kind === 'serial' ? '' : p.mark
		])
	);
	const stops = [...alike.values()].map((list): Stop => {
		const [{ line, p }] = list;
		const numbers = p.kind === 'unmarked' ? [] : list.map((x) => x.p.number).sort(compare);
		return {
			...{ place: p.place, no: line.no, item: line.item, itemName: line.itemName, unit: line.unit, kind: p.kind },
			...{ numbers: compress(numbers).map(text), first: numbers[0] ?? '', last: numbers[numbers.length - 1] ?? '' },
			...{ count: list.length, lot: p.kind === 'serial' ? p.lot : null, qty: total(list.map((x) => x.p.qty)) },
			...{
				expiresOn: p.expiresOn,
				state: pickState(p),
				line: line.id,
				of: list.map((x) => x.p),
				promised: promised.get(line.id)!.has(p.mark)
			}
		};
	});
	return stops.sort(
		(a, b) =>
			compare(a.place, b.place) ||
			a.no - b.no ||
			compare(a.first, b.first) ||
			STATES.indexOf(a.state) - STATES.indexOf(b.state)
	);
}
