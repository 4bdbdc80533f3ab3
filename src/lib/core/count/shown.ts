/* What the page of a count shows. */

/** One row of a count, as it is shown. */
export interface CountRow {
	/** stands for the mark, or the number that nobody knows, at its place */
	key: string;
	place: string;
	mark: string | null;
	kind: 'lot' | 'serial' | 'unmarked';
	number: string;
	lot: string | null;
	item: string;
	itemName: string;
	unit: string;
	decimals: number;
	expiresOn: string | null;
	/** it was asked for; otherwise it was found besides */
	listed: boolean;
	/** null while it is not counted: what is expected is shown afterwards only */
	expected: string | null;
	counted: string | null;
	/** counted less expected, as signed decimal text */
	change: string | null;
	by: string | null;
	at: string | null;
	/** counted again by another person: wanted, or done */
	second: 'wanted' | 'done' | null;
	/** a serial that lies elsewhere by the ledger, or stands at no place of the firm: where */
	elsewhere: string | null;
	/** what stops it or is to be known about it */
	stops: string[];
}

/** How far a place is. */
export interface CountPlace {
	code: string;
	asked: number;
	counted: number;
	differences: number;
}

/** A count as its page shows it. */
export interface CountState {
	code: string;
	place: string;
	note: string;
	closedAt: string | null;
	closedShort: string | null;
	zone: string;
	places: CountPlace[];
	/** the place that is shown, and its rows: what is not counted yet first; at most 300, and how many there are */
	at: string;
	rows: CountRow[];
	more: number;
	differences: CountRow[];
	asked: number;
	counted: number;
	right: number;
	/** reasons to choose from */
	reasons: string[];
	limit: string | null;
	/** why it cannot be booked, in sentences */
	missing: string[];
	stamp: string;
	events: { id: string; kind: string; at: string; by: string; undone: boolean }[];
}

/** What became of something that was counted. */
export interface CountAnswer {
	id: string;
	taken: boolean;
	said: string;
	/** the place that is counted now, where a scan said so */
	place?: string;
	/** how much of this is to be typed */
	ask?: { mark: string; number: string; itemName: string; unit: string; before: string | null };
	/** nobody knows this number: what it is a number of is to be said */
	unknown?: string;
}

/** How a total could be laid on the lots of an item. */
export interface TotalLaid {
	expected: string;
	lots: { mark: string; number: string; expected: string; change: string }[];
	entered: boolean;
}

/** How right the counts of a month were. */
export interface Accuracy {
	month: string;
	counts: number;
	lines: number;
	right: number;
}
