import type { Day } from '../dates/dates.ts';
import { amount, isZero, sub, total, type Qty } from '../quantity/quantity.ts';

/** Something that is in a unit at some time, with what is in it in turn. */
export interface UnitPart {
	mark: string;
	kind: 'lot' | 'serial' | 'unmarked';
	/** empty without one */
	number: string;
	item: string;
	itemName: string;
	unit: string;
	qty: Qty;
	expiresOn: Day | null;
	status: string;
	parts: UnitPart[];
}
/** What the parts list says goes into one. */
export interface Planned {
	item: string;
	itemName: string;
	unit: string;
	qty: Qty;
}
/** A finished serial and what is in it. */
export interface UnitPage {
	id: string;
	number: string;
	item: string;
	itemName: string;
	/** the run that it keeps for its whole life */
	run: string;
	runId: string;
	/** the shelf that it lies on; null where it is not here */
	place: string | null;
	builtOn: string | null;
	/** the time that its parts are read at; null for now */
	at: string | null;
	planned: Planned[];
	parts: UnitPart[];
}

/** Where what is in a unit is otherwise than its parts list says, in words: "Battery cell: 1 of 2", "Clip: not on the list". */
export function otherwise(parts: readonly UnitPart[], planned: readonly Planned[]): string[] {
	const of = (item: string) => total(parts.filter((p) => p.item === item).map((p) => p.qty));
	const listed = new Set(planned.map((p) => p.item));
	return [
		...planned.flatMap((p) => {
			const has = of(p.item);
			return isZero(sub(has, p.qty)) ? [] : [`${p.itemName}: ${amount(has, p.unit)} of ${amount(p.qty, p.unit)}`];
		}),
		...new Set(parts.filter((p) => !listed.has(p.item)).map((p) => `${p.itemName}: not on the list`))
	];
}
