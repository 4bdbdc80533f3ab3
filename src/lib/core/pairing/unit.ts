import type { Day } from '../dates/dates.ts';
import type { Qty } from '../quantity/quantity.ts';

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
	parts: UnitPart[];
}
