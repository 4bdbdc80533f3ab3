import { parseDay, showWhen } from '../dates/dates.ts';
import { grouped, isPlain } from '../quantity/sign.ts';

/**
 * What a list is: columns that sort and are narrowed by what they hold, and where one is in it. All of it stands in the
 * address, so that it can be sent, kept and gone back to.
 */

/**
 * What a column holds, and so how it is narrowed: text by a part of it, a choice by one value, the rest by a span. `past` is a
 * moment at which all of the list is looked at: a day (its end), or a day and a time.
 */
export type ColumnKind = 'text' | 'choice' | 'number' | 'day' | 'moment' | 'past';
/** A value to choose, and the word for it. */
export interface Choice {
	value: string;
	label: string;
}
/** One column of a list. */
export interface Column {
	key: string;
	/** the heading */
	label: string;
	kind: ColumnKind;
	/** what a choice is out of */
	choices?: readonly Choice[];
	/** set in the type of numbers and codes */
	mono?: boolean;
	/** narrows the list, and is not a column of it */
	filterOnly?: boolean;
	/** a column of the list that is worked out after reading: it neither sorts nor narrows */
	computed?: boolean;
	/** shown only when it is chosen */
	extra?: boolean;
}
/** The order of a list. */
export interface Sort {
	key: string;
	down: boolean;
}
/** A list as a page shows it. */
export interface ListShape {
	/** its name in addresses of exports and in what is remembered */
	key: string;
	/** its name, as heading of what is exported too */
	title: string;
	columns: readonly Column[];
	/** the order when none is asked */
	sort: Sort;
	/** what to find in all of it, as the field says; null when there is no such field */
	find: string | null;
	/** said when nothing is in it at all, with what to do */
	empty: string;
}
/** What a column is narrowed to: one text or choice, or a span with either end open. */
export interface Filter {
	is?: string;
	from?: string;
	to?: string;
}
/** A place in a list: the value that it is ordered by and the id of a row, and the number of the row after it. */
export interface Cursor {
	value: string | null;
	id: string;
	/** how many rows stand before the page that begins (or ends) here */
	before: number;
}
/** What of a list is asked. */
export interface ListView {
	find: string;
	filters: Record<string, Filter>;
	sort: Sort;
	/** the page after this row, or before it */
	after: Cursor | null;
	before: Cursor | null;
	/** how many rows a page has */
	size: number;
}
/** A row as text, by the keys of the columns, with its id and whatever else its cells need. */
export type ListRow = { id: string } & Record<string, string | null>;
/** A page of a list. */
export interface ListPage {
	shape: ListShape;
	view: ListView;
	/** how it is narrowed where the view leaves it open */
	standing: Record<string, Filter>;
	rows: ListRow[];
	/** how many rows fit in all; at most MOST_COUNTED, unless all of them were asked for */
	count: number;
	/** there are more than were counted */
	more: boolean;
	/** the number of the first row shown, from 0 */
	first: number;
	/** the addresses' cursors of the pages beside this one; null at the ends */
	next: string | null;
	previous: string | null;
	/** the columns that this person has chosen; null for those that show without choosing */
	chosen: string[] | null;
}

/** How many rows a page may have. */
export const PAGE_SIZES = [25, 50, 100, 200] as const;
/** So many rows are counted unasked: beyond, counting costs more than the page, and nobody goes by the number. */
export const MOST_COUNTED = 10_000;
/** How many rows a page has when nothing else is asked. */
export const PAGE_SIZE = 50;
const DAY = /^\d{4}-\d{2}-\d{2}$/;
const NUMBER = /^-?\d{1,15}(\.\d{1,9})?$/;
const LONGEST = 100;

/** Whether a column is narrowed by a span. */
export const bySpan = (c: Pick<Column, 'kind'>) => c.kind === 'number' || c.kind === 'day' || c.kind === 'moment';
/** Whether a column sorts. */
export const sorts = (c: Column) => !c.filterOnly && !c.computed;
/** Whether a column narrows. */
export const narrows = (c: Column) => !c.computed;
/** The columns that show: those chosen, or all that show without choosing. At least one does. */
export function shownColumns(columns: readonly Column[], chosen: readonly string[] | null): Column[] {
	const own = columns.filter((c) => !c.filterOnly);
	const some = chosen && own.filter((c) => chosen.includes(c.key));
	return some?.length ? some : own.filter((c) => !c.extra);
}

const isDay = (text: string) => DAY.test(text) && 'day' in parseDay(text);
/** A moment as an address has it: 2026-11-25 or 2026-11-25 14:30. */
export const isPast = (text: string): boolean =>
	/^\d{4}-\d{2}-\d{2}( ([01]\d|2[0-3]):[0-5]\d)?$/.test(text) && isDay(text.slice(0, 10));
const fits = (c: Column, value: string) =>
	c.kind === 'number' ? NUMBER.test(value) : c.kind === 'past' ? isPast(value) : !bySpan(c) || isDay(value);
/** A moment as the database writes it: 2026-11-25 20:33:01.5+00. */
const MOMENT = /^(\d{4}-\d{2}-\d{2}) ([01]\d|2[0-3]):[0-5]\d:[0-5]\d(\.\d{1,6})?\+00$/;
/** Can a list be entered at this value of the column that it is sorted by? */
function enters(c: Column, value: string | null): boolean {
	if (value === null || c.kind === 'text' || c.kind === 'choice') return true;
	if (c.kind === 'moment') return isDay(MOMENT.exec(value)?.[1] ?? '');
	return c.kind === 'number' ? /^-?\d{1,30}(\.\d{1,30})?$/.test(value) : isDay(value);
}

/** A cursor as it stands in an address. */
export const cursorText = (c: Cursor) => JSON.stringify([c.value, c.id, c.before]);
/** A cursor out of an address; null when it is none. */
export function readCursor(text: string | null): Cursor | null {
	try {
		const [value, id, before] = JSON.parse(text ?? 'null') as unknown[];
		if (
			(value !== null && typeof value !== 'string') ||
			typeof id !== 'string' ||
			!/^[1-9]\d{0,17}(\.[1-9]\d{0,17})*$/.test(id)
		)
			return null;
		return { value, id, before: Number.isSafeInteger(before) && Number(before) >= 0 ? Number(before) : 0 };
	} catch {
		return null;
	}
}

/**
 * Reads what of a list an address asks. What does not fit a column, such as a date that is none, is left out.
 * @param p the address's parameters: `find`, `sort` (`-name` for downwards), `after`, `before`, `size`, and for each
 *   column its key, or key.from and key.to
 */
export function readView(shape: Pick<ListShape, 'columns' | 'sort'>, p: URLSearchParams): ListView {
	const filters: Record<string, Filter> = {};
	for (const c of shape.columns.filter(narrows)) {
		const names = bySpan(c) ? (['from', 'to'] as const) : (['is'] as const);
		for (const name of names) {
			const value = p
				.get(name === 'is' ? c.key : `${c.key}.${name}`)
				?.trim()
				.slice(0, LONGEST);
			if (value && fits(c, value)) (filters[c.key] ??= {})[name] = value;
		}
	}
	const asked = p.get('sort') ?? '';
	const key = asked.replace(/^-/, '');
	const sort = shape.columns.some((c) => c.key === key && sorts(c)) ? { key, down: asked.startsWith('-') } : shape.sort;
	const by = shape.columns.find((c) => c.key === sort.key)!;
	const cursor = (name: string) => {
		const at = readCursor(p.get(name));
		return at && enters(by, at.value) ? at : null;
	};
	const size = PAGE_SIZES.find((n) => String(n) === p.get('size')) ?? PAGE_SIZE;
	return {
		find: (p.get('find') ?? '').trim().slice(0, LONGEST),
		filters,
		sort,
		after: cursor('after'),
		before: cursor('before'),
		size
	};
}

/** What of a view stands in its address: only what differs from how the list shows unasked, and never the page. */
export function viewParams(shape: Pick<ListShape, 'columns' | 'sort'>, view: ListView): URLSearchParams {
	const p = new URLSearchParams();
	if (view.find) p.set('find', view.find);
	for (const c of shape.columns) {
		const f = view.filters[c.key];
		if (f?.is) p.set(c.key, f.is);
		if (f?.from) p.set(`${c.key}.from`, f.from);
		if (f?.to) p.set(`${c.key}.to`, f.to);
	}
	if (view.sort.key !== shape.sort.key || view.sort.down !== shape.sort.down)
		p.set('sort', (view.sort.down ? '-' : '') + view.sort.key);
	if (view.size !== PAGE_SIZE) p.set('size', String(view.size));
	return p;
}

/**
 * The address of another list, narrowed to the same.
 * @param keys of the columns that both lists have
 */
export function narrowedPath(path: string, filters: Record<string, Filter>, keys: readonly string[]): string {
	const p = new URLSearchParams(keys.flatMap((key) => (filters[key]?.is ? [[key, filters[key].is]] : [])));
	return p.size ? `${path}?${p}` : path;
}

/** How a column is narrowed, in words; null when it is not. */
export function filterWords(c: Column, f: Filter | undefined): string | null {
	if (f?.is && c.kind === 'past') return `${c.label} ${showWhen(f.is)}`;
	if (f?.is) return `${c.label}: ${c.choices?.find((x) => x.value === f.is)?.label ?? f.is}`;
	const [from, to] = [f?.from, f?.to].map((end) => end && (isPlain(end) ? grouped(end) : showWhen(end)));
	if (from && from === to) return `${c.label}: ${from}`;
	if (from && to) return `${c.label}: ${from} to ${to}`;
	if (from) return `${c.label}: from ${from}`;
	return to ? `${c.label}: up to ${to}` : null;
}
