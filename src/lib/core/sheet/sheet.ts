import type { Proposal } from '../cost/cost.ts';
import type { Qty } from '../quantity/quantity.ts';
import type { Day } from '../dates/dates.ts';
import type { AskedFact, Facts } from '../facts/fact.ts';
import type { Finding, Level } from '../checks/check.ts';
import type { Evidence } from '../ledger/evidence.ts';
import type { LeftOut, Preference } from '../allocation/allocate.ts';
import type { Goes, Kind, LineRole, ReasonAct } from '../document/kinds.ts';
import type { Weighed } from '../weight/weight.ts';
import type { Mixing } from '../repack/plan.ts';

export type { Level };

/** What a check says on a screen. */
export interface ShownFinding {
	/** the check that says so */
	code: string;
	level: Level;
	message: string;
	/** id of the mark it speaks of, to open it */
	mark?: string;
	/** a lot that could be taken instead of what was typed */
	use?: string;
	/** nothing is wrong: it is only not typed yet */
	open?: true;
}
/** A finding of a check, for one row: said of all the numbers that it is about there. */
export const findingOf = (f: Finding, message: string): ShownFinding => ({
	code: f.code,
	level: f.level,
	message,
	...(f.mark ? { mark: f.mark } : {}),
	...(f.use ? { use: f.use } : {}),
	...(f.open ? { open: true as const } : {})
});

/** A typed row of a marking sheet with what was found about it. */
export interface SheetRow {
	id: string;
	version: number;
	by: string;
	lot: string;
	/** first of `count` serials, each `step` after the one before */
	serial: string;
	last: string;
	count: number;
	step: number;
	qty: string;
	expiresOn: string;
	supplierLot: string;
	/** the supplier's serial of the first; the others count on like ours */
	supplierSerial: string;
	madeOn: string;
	/** what one of it costs, as typed, where its document asks that; and what would be taken */
	cost: string;
	costProposed?: Proposal;
	/** the bin it goes to, where it is not the order's own place */
	place: string;
	/** as typed, or as they are kept */
	facts: Facts;
	/** worked out from the shelf life, not typed */
	expiryWorkedOut?: boolean;
	/** how it came about: "made 3 Mar 2026 + 12 months" */
	expiryFrom?: string;
	/** typed over a date that was worked out */
	expiryChanged?: boolean;
	/** how its numbers became known, where nobody typed them: "scanned", "3 of 40 scanned", "announced" */
	known: string;
	findings: ShownFinding[];
}
/** Stock taken: by hand (with an id) or suggested. One chosen with a quantity of none is left out of what is suggested. */
export interface PickRow {
	id: string | null;
	version: number;
	mark: string;
	kind: 'lot' | 'serial' | 'unmarked';
	number: string;
	lot: string | null;
	place: string;
	qty: Qty;
	/** as recorded */
	expiresOn: Day | null;
	/** as typed, where none is recorded and the rule asks it at this step */
	expiryTyped: string;
	facts: Facts;
	/** where it goes to, where somebody said so */
	to?: string;
	/** of what comes back: what becomes of it, and what was found when it was looked over */
	goes?: Goes;
	found?: string;
	/** how it is known that this one is taken */
	evidence: Evidence;
	/** whoever fetched it said that this one is taken; or it was picked before, and waits */
	confirmed?: true;
	/** why it is suggested before the next one; that it is promised to this line; or that it came back */
	why?: Preference | 'promised' | 'came back';
	/** it came back from a customer: it is no new one */
	cameBack?: true;
	findings: ShownFinding[];
}
/**
 * How far a pick has come: Earmark proposes it and nobody has looked (*suggested*); somebody named this number from this bin
 * (*chosen*); whoever fetched it scanned or confirmed it (*picked*).
 */
export type PickState = 'suggested' | 'chosen' | 'picked';
/** The state of a pick: what has no row is only suggested, unless it was picked before and waits. */
export const pickState = (p: Pick<PickRow, 'id' | 'evidence' | 'confirmed'>): PickState =>
	p.confirmed || p.evidence === 'scanned' ? 'picked' : p.id === null ? 'suggested' : 'chosen';
/** What each state is called, on screens and papers. */
export const PICK_WORDS: Readonly<Record<PickState, string>> = {
	suggested: 'suggested',
	chosen: 'to fetch',
	picked: 'picked'
};

/** What goes into one unit, or into the whole line when unit is null. */
export interface Cell {
	unit: string | null;
	need: Qty;
	picks: PickRow[];
	short: Qty;
	/** what is at hand for it, where nobody but a person may say which one goes in */
	offers: Offer[];
}
/** Stock that may be taken, not taken yet. */
export interface Offer {
	mark: string;
	kind: 'lot' | 'serial' | 'unmarked';
	number: string;
	place: string;
}
/** A line of a sheet with all that its screen shows. */
export interface SheetLine {
	id: string;
	no: number;
	role: LineRole;
	item: string;
	itemName: string;
	unit: string;
	decimals: number;
	/** the numbers that are asked at this step */
	tracking: 'none' | 'lot' | 'serial' | 'lot and serial';
	/** how strongly a serial is asked */
	serialAsked: 'not asked' | 'asked' | 'required';
	announced?: AnnouncedLine;
	/** the customer that it is bought for, to whom it is promised as it arrives */
	forPartner: string | null;
	/** pieces that get their serials only now, at shipment */
	toNumber?: Qty;
	expiry: 'not asked' | 'asked' | 'required';
	/** facts asked at this step */
	facts: AskedFact[];
	/** where the supplier's number stands: beside ours (and printed), or used as ours */
	supplierNumber: 'beside' | 'printed' | 'ours';
	/** numbers drawn when the order was released that are in no sheet yet: how many, and the first */
	released?: { left: number; first: string };
	/** what one costs is asked of its rows */
	costs?: true;
	/** what the item looks like: the SHA-256 of a file */
	picture: string | null;
	/** bins of the site that hold the item already, the fullest first */
	bins: string[];
	/** the patterns that new numbers can be drawn from */
	lotPattern: string | null;
	serialPattern: string | null;
	/** ordered, booked, still open; entered or picked in this sheet */
	qty: Qty;
	done: Qty;
	open: Qty;
	entered: Qty;
	rows: SheetRow[];
	cells: Cell[];
	/** how much of it goes now, when that was set by hand */
	now: { id: string; version: number; qty: string } | null;
	/** of a line that sells */
	sold?: Sold;
	/** what of it is on invoices */
	invoiced: Qty;
	leftOut: LeftOut[];
	/** what is promised to it */
	promises: LinePromise[];
	findings: ShownFinding[];
}
/** So much of a lot, or a serial, that is promised to a line. */
export interface LinePromise {
	id: string;
	mark: string;
	kind: 'lot' | 'serial';
	number: string;
	/** what was promised, what of it has not gone out yet, and what of it was taken over */
	qty: Qty;
	rest: Qty;
	taken: Qty;
	/** "Mina Okafor took over 4 kg for SO-2 on 3 Mar 2027: urgent"; null where nothing was taken over */
	takenBy: string | null;
	until: Day | null;
	/** why it does not count any more: its day has passed; null while it does */
	over: 'run out' | null;
}
/** The marks that are promised to a line now, by their ids. */
export const promisedTo = (line: Pick<SheetLine, 'promises'>): Set<string> =>
	new Set(line.promises.flatMap((p) => (p.over || p.rest === '0' ? [] : [p.mark])));
/** What was announced for a line, against what has arrived. */
export interface AnnouncedLine {
	/** serials and lots */
	expected: number;
	arrived: number;
	/** as ranges; a lot with what is missing of it */
	missing: string[];
	/** arrived, and announced by nobody */
	extra: string[];
	pallets: string[];
}
/** A lot that is repacked: what goes in of it and what becomes of it, in content. */
export interface RepackLot {
	mark: string;
	kind: 'lot' | 'serial' | 'unmarked';
	number: string;
	expiresOn: Day | null;
	in: Qty;
	/** packs that hold this lot alone, by the line that they are of */
	packs: { line: number; qty: Qty }[];
	/** content of it that goes into packs with other lots */
	mixed: Qty;
	/** as typed */
	loss: { id: string; version: number; qty: string } | null;
	lost: Qty;
	/** in nothing yet */
	left: Qty;
}
/** The balance of a repacking. */
export interface RepackPart {
	/** the unit of content, and how much of it one unit of what goes in holds */
	unit: string;
	holds: Qty;
	mixing: { kind: Mixing; id: string | null; version: number };
	lots: RepackLot[];
	/** packs that hold more than one lot, with the number of the new lot */
	mixed: { line: number; qty: Qty; lot: string; id: string | null; version: number }[];
	/** how much content one base unit of each line that comes out holds */
	each: { line: number; holds: Qty }[];
}
/** Something in a batch that is not closed: it can be given back. */
export interface LeftOver {
	mark: string;
	kind: 'lot' | 'serial' | 'unmarked';
	number: string;
	itemName: string;
	unit: string;
	decimals: number;
	/** how much of it is in the batch, and how much of that is more than what came out takes by the parts list */
	qty: Qty;
	over: Qty;
	/** where it was taken from last */
	place: string;
}
/** What a program of others did of a document, noted by hand or by a program. */
export interface Noted {
	id: string;
	what: 'payment' | 'invoice';
	number: string;
	dated: Day;
	by: string;
	/** how much of which lines was invoiced */
	lines: { no: number; qty: Qty }[];
	/** it was noted wrongly, and taken back by this person */
	withdrawn: string | null;
}
/** Who signed for what. */
export interface Signed {
	id: string;
	meaning: 'terms' | 'receipt';
	signer: string;
	at: string;
	by: string;
	/** SHA-256 of the picture of it */
	file: string;
	/** the event by which it was handed over */
	event: string | null;
}
/** A number that has gone on a line and is with the customer. */
export interface Gone {
	mark: string;
	kind: 'lot' | 'serial' | 'unmarked';
	number: string;
	lot: string | null;
	qty: Qty;
	/** the number that it went in place of */
	replaces: string | null;
	/** the place that it went from */
	from: string;
	/** last day of its warranty */
	warrantyUntil: Day | null;
}
/** What is agreed of a line that sells, and what of it has gone. */
export interface Sold {
	/** ISO 8601: of the line, and of its item where the line has none of its own */
	warranty: string | null;
	itemWarranty: string | null;
	price: string;
	/** its item carries numbers */
	numbered: boolean;
	/** so much has gone, and so much waits to go */
	handed: Qty;
	waits: Qty;
	/** the first numbers of what has gone, and how many there are */
	gone: Gone[];
	numbers: number;
}
/** How far a sale has come: three things that go each their own way. */
export interface Progress {
	goods: 'to ship' | 'staged' | 'partly handed over' | 'handed over';
	payment: 'none noted' | 'noted';
	numbers: 'none asked' | 'to assign' | 'partly assigned' | 'assigned';
}
/** What one scan said and did. */
export interface ScanEntry {
	id: string;
	text: string;
	taken: boolean;
	said: string;
	undone: boolean;
	canUndo: boolean;
	by: string;
	at: string;
}
/** Something that stays to be done of a document. */
export interface Todo {
	id: string;
	what: string;
	/** when it was ticked off, by whom, and what they said: the number of a credit note */
	done: { at: string; by: string; said: string } | null;
}
/** Something that stands in the foot bar. */
export interface Missing {
	line: number;
	level: Level;
	message: string;
	code: string;
}
/** What was booked on a document. */
export interface SheetEvent {
	id: string;
	kind: string;
	at: string;
	by: string;
	undone: boolean;
	movements: number;
	/** something came to a place by it: there are labels to print */
	brings: boolean;
	/** something was in transit before it */
	arrives: boolean;
	/** something went to where picked goods wait */
	waits: boolean;
	document: string | null;
	/** papers as they were printed, the oldest first */
	papers: { id: string; at: string }[];
}
/** A whole sheet as its screen shows it. */
export interface SheetState {
	code: string;
	kind: Kind;
	partnerName: string | null;
	/** the job it is for, with its name */
	job: { code: string; name: string } | null;
	place: string | null;
	/** what stays to be done after its goods have come or gone */
	todos: Todo[];
	/** payments and invoices */
	noted: Noted[];
	/**
	 * of a sale: whom it is for, who signed for what, whether the firm has terms to agree to, and what else is to go from the
	 * same place to the same customer
	 */
	sale?: { customer: string | null; signed: Signed[]; terms: boolean; others: string[] };
	/** why, of an adjustment or a return, and what that reason is for */
	reason: { name: string; act: ReasonAct } | null;
	dueOn: Day | null;
	note: string;
	/** what comes on it stays the property of its partner */
	theirs: boolean;
	closedAt: Day | null;
	/** why it was closed before all of it was booked */
	closedShort: string | null;
	unitRuns: boolean;
	/** units whose parts are recorded and which are not finished yet */
	started: string[];
	/** units that are put together at stations, not booked yet */
	atStations: number;
	lines: SheetLine[];
	/** what stands in the foot bar */
	missing: Missing[];
	/** the time zone of its site */
	zone: string;
	/** it has so many rows or pieces that a change is answered by itself, and all of it is checked behind */
	long: boolean;
	/** what stands in the foot bar is all there is; where it is not, it is asked for behind */
	checked: boolean;
	/** may the button be pressed, and what it will do: "Book in 37 of 40" */
	ready: boolean;
	/** stands for exactly this content; booking sends it back, so that what is booked is what was seen */
	stamp: string;
	/** the supplier's advance notice */
	notice?: { name: string; at: string; by: string };
	/** what the lines weigh, and what carriage is asked for them */
	weighed: Weighed;
	/** of a batch: what went in and could be given back */
	leftOver?: LeftOver[];
	/** of a transfer: where it goes to, what is recorded now, and how many numbers are in transit */
	transfer?: { to: string; side: 'leaves' | 'arrives'; inTransit: number };
	/** of an order whose site picks in an act of its own: where it waits unless somebody says otherwise, all places for that, what is recorded now, and how many numbers wait */
	staging?: { at: string; bins: readonly string[]; side: 'picks' | 'ships'; waits: number };
	/** of a repacking: what becomes of each lot */
	repack?: RepackPart;
	/** the latest scans, newest first */
	scans: ScanEntry[];
	events: SheetEvent[];
}
/**
 * What is recorded of a production: what goes in, what comes out, or both; of a transfer: what leaves (use), what arrives
 * (output), or whatever is next (both); of an order to ship whose site picks in an act of its own: what is picked (use), what
 * is shipped (output).
 */
export const MODES = ['both', 'use', 'output'] as const;
/** One of them. */
export type Mode = (typeof MODES)[number];
