import type Fraction from 'fraction.js';
import type { Evidence, Known } from '../ledger/evidence.ts';
import type { VirtualPlace } from '../ledger/places.ts';

/**
 * What a trace reads. Movements come without what was undone, sorted by (at, id); ids are text, quantities decimal
 * text, times ISO 8601 in UTC with one fixed width, so that they compare as text.
 */
export interface LedgerSlice {
	marks: Map<string, MarkInfo>;
	runs: Map<string, RunInfo>;
	places: Map<string, PlaceInfo>;
	movements: Moves;
}
/** Movements, read one after the other as often as wanted: of a large slice none stands as an object before. */
export interface Moves extends Iterable<Moved> {
	readonly length: number;
}
/** What a trace needs of a mark. */
export interface MarkInfo {
	id: string;
	kind: 'lot' | 'serial' | 'unmarked';
	/** content of one unit in a common measure ("0.03" L), when the item states one */
	measure?: string | null;
	measureUnit?: string | null;
}
/** What a trace needs of a run. */
export interface RunInfo {
	id: string;
	/** the one finished mark of this run; null for a pooled run */
	unit: string | null;
	planned?: string | null;
	closed?: boolean;
}
/** What a trace needs of a place. */
export interface PlaceInfo {
	id: string;
	code: string;
	virtual: boolean;
}
/** One movement. */
export interface Moved {
	id: string;
	at: string;
	mark: string;
	qty: string;
	from: string;
	to: string;
	run: string | null;
	role: 'use' | 'make' | 'detach' | null;
	partner: string | null;
	/** the job of its event */
	job?: string | null;
	event: string;
	/** how it became known that it is this one; null where nobody said, and for stock without a number */
	evidence?: Evidence | null;
}

/** Where something is: on a shelf, at one of the ends of the ledger, or where nothing proves it any more. */
export type State = 'on hand' | VirtualPlace['state'] | 'unmarked';

/** One place where the root, or what it went into, is now. */
export interface Where {
	mark: string | null;
	run: string | null;
	state: State;
	/** place id for on hand, partner id for shipped and sent back, job id for issued */
	at: string | null;
	qty: string | null;
	/** how much of the root is in it, in the root's base unit */
	content: Fraction;
	/** how it is known that this one went there, of what is gone */
	evidence?: Evidence | null;
}
/**
 * Where the trace cannot vouch: something came from no numbered source, went where no number was kept, or was booked as
 * suggested without a look at it.
 */
export interface Gap {
	kind: 'unmarked made' | 'unmarked used' | 'adjusted in' | 'no inputs' | 'not looked at';
	mark: string | null;
	run: string | null;
	event: string;
	qty: string;
}
/** One movement on the way, with its run. */
export interface Flow {
	run: string;
	role: 'use' | 'make' | 'detach';
	mark: string;
	qty: string;
	at: string;
	event: string;
	evidence: Evidence | null;
	/** root content carried by this movement; only in a forward trace */
	content?: Fraction;
}
/** What became of the root, and where it is. The lists are worked out anew whenever they are read. */
export interface Forward {
	rootQty: Fraction;
	readonly marks: Iterable<{ mark: string; since: string; now: boolean }>;
	readonly where: Iterable<Where>;
	readonly flows: Iterable<Flow>;
	/** how the links on the way are known: what went into runs and came out, what went to somebody */
	readonly known: Known;
	gaps: Gap[];
}
/** What the root is made of, and who sent it. */
export interface Back {
	marks: { mark: string; until: string | null }[];
	/** receipts that brought the root or anything in it */
	receipts: { mark: string; partner: string | null; event: string; qty: string; evidence: Evidence | null }[];
	formerly: string[];
	flows: Flow[];
	gaps: Gap[];
}
