import type { Column, Filter, ListRow, Sort } from '../../core/list/list.ts';
import type { Verb } from '../../core/people/can.ts';
import type { Db, Sql } from '../database/connect.ts';
import type { Fragment } from '../database/fragment.ts';

/** A column with where it comes from. */
export interface SourceColumn extends Column {
	/** the expression that it sorts and narrows by; what is worked out after reading has none */
	from?: string;
	/** the text of it, where that is not the expression itself */
	text?: string;
	/** never empty: a page is then found by one comparison, and from an index */
	filled?: boolean;
	/** all values by the first id (id, value), and what those have that are not there: to sort a long list by what costs much to work out row by row */
	together?: { values: string; none?: string };
	/** the ids that a choice stands for, read before the list is: from them the database knows how much fits */
	ids?: (sql: Db, is: string) => Promise<string[]>;
	/** narrows in a way of its own */
	where?: (sql: Db, filter: Filter, asked: ListAsked) => Fragment;
	/** the ids of what fits, by an index, where nothing else is asked: whether it is too much to be counted is soon known of them */
	fitting?: (sql: Db, filter: Filter, asked: ListAsked) => Fragment | null;
	/** values to choose from that are read anew each time */
	options?: (sql: Db) => Promise<{ value: string; label: string }[]>;
}
/** What of the asker a list may need. */
export interface ListAsked {
	/** today, where the firm is */
	today: string;
	find: string;
	filters: Record<string, Filter>;
	/** of columns that read them, the ids that a filter's choice stands for */
	ids: Record<string, string[]>;
}
/** Where a list comes from. All text in it is the code's own; what is asked of it goes in as values. */
export interface ListSource {
	key: string;
	title: string;
	/** what one must be allowed to do to see it */
	right: Verb;
	columns: readonly SourceColumn[];
	sort: Sort;
	empty: string;
	/** what tells rows of one value apart: one bigint, or several together */
	id: readonly string[];
	/** FROM and WHERE, without the words narrowed by; where it depends on what is asked, only on values of a known form */
	from: string | ((asked: ListAsked) => string);
	/** as many rows as FROM has where nothing is asked, without what is joined only to be shown: to be counted */
	counts?: string;
	/** no more rows than that, and sooner counted: where these alone are more than is counted, nothing else is */
	atLeast?: string;
	/** the same for one row, whose ids are list_page.list_id0 and so on: where FROM works out all rows together */
	each?: (asked: ListAsked) => string | null;
	/** finding one row costs as much as finding all: all that fit are gathered then, however many they are */
	whole?: (asked: ListAsked) => boolean;
	/** what else a row brings, by name */
	also?: Record<string, string>;
	find: string | null;
	/**
	 * narrows the list to what is found, and says where that alone is more than is counted; without it every text column is
	 * looked into. `gathered`: the same, where all that is found is gathered, and not looked for row by row
	 */
	finds?: (sql: Db, text: string) => Promise<{ where: Fragment; gathered?: Fragment; many?: boolean }>;
	/** fills in what is worked out after reading, for all rows of a page at once */
	finish?: (sql: Sql, rows: ListRow[], asked: ListAsked) => Promise<ListRow[]>;
	/** narrows what the address leaves open, such as the register to what is on hand */
	unasked?: (find: string) => Record<string, Filter>;
}
