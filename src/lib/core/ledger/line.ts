import type { AskedFact, Facts } from '../facts/fact.ts';
import type { Day } from '../dates/dates.ts';
import type { Block } from '../numbering/pattern.ts';
import type { Enough } from './evidence.ts';
import type { ParsedMovement } from './input.ts';
import type { Status } from './status.ts';

/** How the date of what is made comes about: its own shelf life, the first date of what goes in, the earlier of both. */
export const EXPIRY_FROM = ['life', 'parts', 'earlier'] as const;
/** One of them. */
export type ExpiryFrom = (typeof EXPIRY_FROM)[number];

/** An item with what its marking rule asks. */
export interface Item {
	id: string;
	code: string;
	name: string;
	unit: string;
	decimals: number;
	tracking: string;
	shelfLife: string | null;
	endOfMonth: boolean;
	/** how the date of what is made comes about */
	expiryFrom: ExpiryFrom;
	/** what one base unit holds, where it can be repacked; and how much may be lost of it without a reason, in per cent */
	content: { qty: string; unit: string } | null;
	lossTolerance: string;
	/** how much of its life must be left when it arrives, as an ISO 8601 duration */
	leastLeft: string | null;
	/** what a number that does not fit its pattern means */
	misfit: 'stop' | 'reason' | 'note';
	everywhere: boolean;
	lotPattern: Block[] | null;
	serialPattern: Block[] | null;
	/** what each step asks */
	rules: Record<string, { lot: string; serial: string; expiry: string; evidence: Enough }> | null;
	/** facts asked at each step, by their codes */
	asks: Record<string, Record<string, AskedFact['how']>> | null;
}
/** A place as the checks see it. */
export interface Place {
	id: string;
	code: string;
	virtual: boolean;
	/** code of the site it belongs to */
	site: string | null;
	/** the time zone of its site, or the firm's */
	zone: string;
	/** what goes between sites stands there until it arrives */
	transit?: boolean;
	/** what was picked waits there until it is shipped */
	staging?: boolean;
}
/** A lot, a serial, or an item's stock without numbers. */
export interface Mark {
	id: string;
	item_id: string;
	kind: 'lot' | 'serial' | 'unmarked';
	lot_no: string | null;
	serial_no: string | null;
	parent_id: string | null;
	supplier_lot: string | null;
	supplier_serial: string | null;
	supplier_warranty_until: Day | null;
	facts: Facts;
	made_on: Day | null;
	expires_on: Day | null;
	status: Status;
	/** code of the partner that it belongs to; null where it is ours, or its lot's owner's */
	owner: string | null;
	/** how often what is recorded of it has changed */
	version: number;
	/** made by this event; its id is no more than a name until then */
	fresh?: boolean;
	/** of one that is new: how many numbers look like its own, whatever their item */
	lookalikes?: number;
}
/** A run as the checks see it. */
export interface Run {
	id: string | null;
	code: string;
	unit: Mark | null;
	planned: string | null;
	/** id of the last movement through it */
	last: string | null;
	closed: boolean;
	closes: boolean;
}
/** A movement with everything it names found. */
export interface Line {
	/** where it stands among the event's movements */
	index: number;
	given: ParsedMovement;
	item: Item;
	from: Place;
	to: Place;
	mark: Mark;
	/** the lot that a serial belongs to */
	lot: Mark | null;
	run: Run | null;
}
