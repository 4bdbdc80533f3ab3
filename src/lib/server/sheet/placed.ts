import type { RowData } from './drafts.ts';

/** A scan that is not taken; the sentence says why and what to do. Nothing is changed. */
export class Refused extends Error {}

/** The row of a sheet that a scan made or changed. */
export interface Placed {
	/** empty while the row is new */
	id: string;
	before: RowData | null;
	after: RowData;
	version: number;
	/** what was scanned, in words */
	what: string;
	/** it stood there already, and was looked at */
	looked?: true;
	/** the scanned number by itself, where its row holds more than that */
	alone?: RowData;
	/** rows of the same number elsewhere in the sheet, each by itself */
	same?: { id: string; data: RowData }[];
}
