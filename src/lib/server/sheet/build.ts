import type { Db, Tx } from '../database/connect.ts';
import type { Policy } from '../../core/checks/catalogue.ts';
import type { Actor, EventInput } from '../../core/ledger/input.ts';
import type { Day } from '../../core/dates/dates.ts';
import type { Mode, SheetLine, SheetState } from '../../core/sheet/sheet.ts';
import type { Order, OrderLine } from '../document/orders.ts';
import type { OnHand } from '../marks/onhand.ts';
import type { TermsOf } from '../marks/terms.ts';
import type { DraftRow } from './drafts.ts';
import type { Move, SheetFinding } from './lines.ts';
import type { StockThere } from './stockthere.ts';

/** What a sheet is built for: the order and its drafts, the moment, what is recorded now, and the firm's policy. */
export interface BuildInput {
	order: Order;
	drafts: readonly DraftRow[];
	/** the day at the order's place */
	today: Day;
	now: Date;
	mode: Mode;
	policy: Policy;
	/** what other sheets take that are booked with it */
	held?: readonly Held[];
	/** only what its rows name goes: nothing is suggested beside it */
	named?: boolean;
	/** it is only asked what is wrong with one row, by itself: what stands there of what it takes, none where it takes nothing */
	alone?: readonly OnHand[];
	/** what stands at its site */
	stock: StockThere;
	/** of a long sheet the ledger's checks are not asked yet: the movements that its button would book may be left out */
	ahead?: boolean;
}
/** So much of a number at a place that another sheet takes. */
export interface Held {
	mark: string;
	place: string;
	qty: string;
	/** code of its order */
	for: string;
}
/** What an area makes of an order and its drafts: its lines, what its own checks found, and what the button would book. */
export interface Built {
	lines: SheetLine[];
	/** what else its sheet shows beside its lines */
	shows?: Partial<
		Pick<
			SheetState,
			'notice' | 'started' | 'atStations' | 'unitRuns' | 'repack' | 'leftOver' | 'transfer' | 'staging' | 'sale'
		>
	>;
	said: SheetFinding[];
	kind: string;
	runs: NonNullable<EventInput['runs']>;
	moves: Move[];
	/** is enough entered for the button, if nothing stands in the way? */
	enough: boolean;
	/** drafts that the event uses up */
	used: string[];
	/** what becomes of it next, where that is asked of whoever picks it: what goes, and where to */
	next?: { kind: string; to: string };
	/** what else is written with the event */
	after?: (tx: Tx, actor: Actor, booked: { id: string; at: string }) => Promise<void>;
	/** what its customer asks of what goes, where that was read */
	terms?: TermsOf;
	/** reasons that were given before, by the mark: what they answer is not asked again */
	answered?: ReadonlyMap<string, string>;
}
/** What somebody wants to take: a number as it is printed, marks by their ids, or whatever there is of an item. */
export type Asked = { number: string; gtin?: string } | { marks: readonly string[] } | { itemId: string };
/** What scans of a document may take. */
export interface ScanSource {
	stock: readonly OnHand[];
	/** whatever its state, and whoever it is promised to */
	any?: true;
	/** all of it is what was asked for, under whatever number it went */
	exact?: true;
	/** what carries no number is named by its item, and is in it then */
	loose?: true;
	/** @returns why a number of its items is not to be taken, with the way out; null where nothing is known of it */
	missing: (number: string, lines: readonly OrderLine[]) => Promise<string | null>;
}
/** A kind of document on the server: how its sheet is built, and what only it can do. */
export interface Builder {
	build: (sql: Db, given: BuildInput) => Promise<Built>;
	/** what its scans may take, where that is not what stands at its site; and what is to be said of a number that is not of it */
	takes?: (sql: Db, order: Order, mode: Mode, asked: Asked) => Promise<ScanSource | null>;
	/** code of the partner that one about a mark is with; kinds that have none, or cannot know it, leave it out */
	partnerOf?: (sql: Db, mark: string) => Promise<string | null>;
	/** what of an order was begun and would be lost if it were closed, in a sentence with the way out; kinds where nothing is leave it out */
	begun?: (sql: Db, order: { id: string }) => Promise<string | null>;
	/** enters what is announced under a pallet's number; kinds without pallets leave it out */
	enterPallet?: (tx: Tx, by: string, order: Order, sscc: string) => Promise<{ ids: string[]; numbers: number }>;
}
