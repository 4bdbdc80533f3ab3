import {
	bySpan,
	cursorText,
	type Column,
	MOST_COUNTED,
	type Cursor,
	type ListPage,
	type ListRow,
	type ListShape,
	type ListView
} from '../../core/list/list.ts';
import { firstOf } from './numbers.ts';
import type { Db, Sql } from '../database/connect.ts';
import { like } from '../database/like.ts';
import { nothing, type Fragment } from '../database/fragment.ts';
import type { ListAsked, ListSource, SourceColumn } from './source.ts';

/** What values of a column are compared as. */
const TYPES = {
	text: 'text',
	choice: 'text',
	number: 'numeric',
	day: 'date',
	moment: 'timestamptz',
	past: 'text'
} as const;
const isRead = (c: SourceColumn) => !c.filterOnly && (c.from ?? c.text) !== undefined;
/** The text of a column: moments in the firm's time. */
const textOf = (c: SourceColumn) => c.text ?? (c.kind === 'moment' ? `shown_time(${c.from})` : `(${c.from})::text`);

/** Text of the code's own as a piece of a statement. */
const piece = (sql: Db, text: string): Fragment => sql`${sql.unsafe(text)}`;

/** What a list is, for a page: its columns with what there is to choose from, which is read and sent once where two share it. */
export async function shapeOf(sql: Db, source: ListSource): Promise<ListShape> {
	const asked = new Set(source.columns.flatMap((c) => c.options ?? []));
	const options = new Map(await Promise.all([...asked].map(async (ask) => [ask, await ask(sql)] as const)));
	const columns = source.columns.map((c): Column => {
		const { key, label, kind, mono, filterOnly, computed, extra } = c;
		const choices = (c.options && options.get(c.options)) ?? c.choices;
		return { key, label, kind, choices, mono, filterOnly, computed, extra };
	});
	const { key, title, sort, find, empty } = source;
	return { key, title, columns, sort, find, empty };
}

function narrowed(sql: Db, source: ListSource, asked: ListAsked): Fragment[] {
	return source.columns.flatMap((c) => {
		const f = asked.filters[c.key];
		if (!f) return [];
		if (c.where) return [sql`AND ${c.where(sql, f, asked)}`];
		const value = piece(sql, c.kind === 'moment' ? `shown_day(${c.from})::date` : c.from!);
		if (!bySpan(c)) {
			if (!f.is) return [];
			return c.kind === 'choice'
				? [sql`AND (${value}) = ${f.is}`]
				: [sql`AND lower(${value}) LIKE ${`%${like(f.is.toLowerCase())}%`}`];
		}
		const type = piece(sql, c.kind === 'number' ? 'numeric' : 'date');
		return [
			...(f.from ? [sql`AND (${value}) >= ${f.from}::text::${type}`] : []),
			...(f.to ? [sql`AND (${value}) <= ${f.to}::text::${type}`] : [])
		];
	});
}

/** In an object, for a piece that a promise gives would be sent as a statement of its own. */
async function found(sql: Db, source: ListSource, text: string, gathers = false): Promise<{ where: Fragment }> {
	if (!text) return { where: sql`` };
	if (source.finds) {
		const { where, gathered = where } = await source.finds(sql, text);
		return { where: sql`AND ${gathers ? gathered : where}` };
	}
	// What is chosen from names that are set up is looked for by its name too.
	const words = source.columns.filter((c) => c.from && (c.kind === 'text' || c.options)).map((c) => c.from);
	const pattern = `%${like(text.toLowerCase())}%`;
	return { where: sql`AND lower(concat_ws(' ', ${piece(sql, words.join(', '))})) LIKE ${pattern}` };
}

/** Where the rows come from, as it is asked. */
const fromOf = (source: ListSource, asked: ListAsked) =>
	typeof source.from === 'string' ? source.from : source.from(asked);

/** All pieces joined. */
const all = (sql: Db, pieces: Fragment[]) => pieces.reduce((sum, p) => sql`${sum} ${p}`, nothing(sql));

/** The two stretches of a list by a column that may be empty: what has a value, and after it what has none. */
type Stretch = 'filled' | 'empty';
/** The stretches that are left to read from a cursor on, in the direction that they are read. */
function stretchesFrom(by: SourceColumn, at: Cursor | null, before: boolean): Stretch[] {
	if (by.filled) return ['filled'];
	const all: Stretch[] = before ? ['empty', 'filled'] : ['filled', 'empty'];
	return at && (at.value === null) !== before ? all.slice(1) : all;
}

/** What fits, by the names that the statement of a page gives it. */
const idNames = (source: ListSource) => source.id.map((_id, i) => `list_id${i}`);

/** Rows of one stretch after a cursor, or before it, in the list's order. */
function beside(
	sql: Db,
	source: ListSource,
	c: SourceColumn,
	up: boolean,
	at: Cursor | null,
	stretch: Stretch
): Fragment {
	const ids = piece(sql, idNames(source).join(', '));
	const is = piece(sql, c.filled ? 'true' : `list_value IS ${stretch === 'empty' ? '' : 'NOT '}NULL`);
	if (!at || (at.value === null) !== (stretch === 'empty')) return sql`WHERE ${is}`;
	const sign = piece(sql, up ? '>' : '<');
	const last = at.id
		.split('.')
		.reduce((sum, x, i) => (i ? sql`${sum}, ${x}::bigint` : sql`${x}::bigint`), nothing(sql));
	if (stretch === 'empty') return sql`WHERE ${is} AND (${ids}) ${sign} (${last})`;
	const collate = piece(sql, TYPES[c.kind] === 'text' ? 'COLLATE natural_order' : '');
	return sql`WHERE ${is} AND (list_value ${collate}, ${ids}) ${sign} (${at.value}::text::${piece(sql, TYPES[c.kind])} ${collate}, ${last})`;
}

interface Part {
	rows: ListRow[];
	/** cursor values of the first and the last row */
	ends: { value: string | null; id: string }[];
	more: boolean;
}
/** Where in a list some rows are read. */
interface At {
	from: Cursor | null;
	before: boolean;
	size: number;
}
/**
 * How the rows of a page are found. Where few enough fit, all of them are gathered and sorted, whatever they are sorted by;
 * where more do, the list is walked in its order until the page is full. Which of the two is known by gathering up to a limit.
 */
type Way = { gathered: number } | 'walked';
/** A row with what it is ordered by. */
type Cut = ListRow & { list_value: string | null };

/**
 * Some rows in the list's order, and of those that are gathered how many fit. The page is cut first, by what it is sorted and
 * narrowed by; only then is each of its rows read, so that what a column costs is paid for the rows that show.
 */
async function part(
	sql: Sql,
	source: ListSource,
	view: ListView,
	asked: ListAsked,
	{ from: at, before, size }: At,
	way: Way
): Promise<Part & { count: number }> {
	const by = source.columns.find((c) => c.key === view.sort.key)!;
	// A cursor of another list, or made up, is no place in this one.
	const from = at && at.id.split('.').length === source.id.length ? at : null;
	const got: Cut[] = [];
	let count = 0;
	for (const stretch of stretchesFrom(by, from, before)) {
		const left = size + 1 - got.length;
		if (left <= 0) break;
		const some = await cut(sql, source, by, asked, { from, up: view.sort.down === before, stretch, left }, way);
		count = some.count;
		got.push(...some.rows);
		if (way !== 'walked' && count > way.gathered) break;
	}
	const rows = got.slice(0, size);
	if (before) rows.reverse();
	return {
		count,
		ends: rows.length ? [rows[0], rows[rows.length - 1]].map((r) => ({ value: r.list_value, id: r.id })) : [],
		rows: rows.map(({ list_value: _value, ...r }) => r),
		more: got.length > size
	};
}

/** All that fits, by its ids, with what it is ordered by. */
async function fittingOf(
	sql: Sql,
	source: ListSource,
	by: SourceColumn,
	asked: ListAsked,
	{ together = false, gathers = false }: { together?: boolean; gathers?: boolean }
) {
	const [wheres, find] = [narrowed(sql, source, asked), await found(sql, source, asked.find, gathers)];
	const ids = source.id.map((id, i) => `${id} AS ${idNames(source)[i]}`).join(', ');
	const rows = `SELECT ${ids}, ${together ? 'NULL' : `(${by.from})`} AS list_value FROM ${fromOf(source, asked)}`;
	return { fitting: sql`${piece(sql, rows)} ${all(sql, wheres)} ${find.where}` };
}
/** Is its value read out of other rows? No index then orders a list by it. */
const readsRows = (c: SourceColumn) => /\bSELECT\b/.test(c.from ?? '');
/** The same, not cut: what costs much to work out for each row is worked out for all at once, where all are sorted by it. */
async function fittingAll(sql: Sql, source: ListSource, by: SourceColumn, asked: ListAsked) {
	const { together } = by;
	const { fitting } = await fittingOf(sql, source, by, asked, { together: !!together });
	// The value is shown, compared and sorted by: what is read out of other rows is read once, not for each of these.
	if (!together) return { fitting: readsRows(by) ? sql`${fitting} OFFSET 0` : fitting };
	const value = together.none ? `coalesce(all_of.value, ${together.none})` : 'all_of.value';
	const read = `${idNames(source).join(', ')}, ${value} AS list_value`;
	return {
		fitting: sql`SELECT ${piece(sql, read)} FROM (${fitting}) one LEFT JOIN (${piece(sql, together.values)}) all_of ON all_of.id = one.list_id0`
	};
}
/** How the rows of one stretch are ordered. */
function orderOf(source: ListSource, by: SourceColumn, up: boolean, stretch: Stretch): string {
	const value = `list_fits.list_value${TYPES[by.kind] === 'text' ? ' COLLATE natural_order' : ''}`;
	return [...(stretch === 'filled' ? [value] : []), ...idNames(source)]
		.map((x) => `${x} ${up ? 'ASC' : 'DESC'}`)
		.join(', ');
}
/** What is read of the row that a page has at a place. */
function rowOf(source: ListSource, asked: ListAsked): string {
	const columns = source.columns.filter(isRead).map((c) => `${textOf(c)} AS "${c.key}"`);
	const also = Object.entries(source.also ?? {}).map(([name, value]) => `(${value})::text AS "${name}"`);
	const same = source.id.map((id, i) => `${id} = list_page.${idNames(source)[i]}`).join(' AND ');
	const idText = source.id.map((id) => `${id}::text`).join(" || '.' || ");
	return `SELECT ${[`${idText} AS id`, ...columns, ...also].join(', ')} FROM ${source.each?.(asked) ?? fromOf(source, asked)} AND ${same} OFFSET 0`;
}

/** Rows of one stretch, at most as many as are left to read. */
async function cut(
	sql: Sql,
	source: ListSource,
	by: SourceColumn,
	asked: ListAsked,
	{ from, up, stretch, left }: { from: Cursor | null; up: boolean; stretch: Stretch; left: number },
	way: Way
): Promise<{ rows: Cut[]; count: number }> {
	const most = way === 'walked' ? null : way.gathered;
	const fits =
		most !== null
			? sql`MATERIALIZED (${(await fittingOf(sql, source, by, asked, { gathers: true })).fitting} LIMIT ${most + 1})`
			: sql`NOT MATERIALIZED (${(await fittingAll(sql, source, by, asked)).fitting})`;
	const got = await sql<(Cut & { list_count: number })[]>`
		WITH list_fits AS ${fits},
		list_counted AS (SELECT ${most === null ? sql`0` : sql`count(*)::int`} AS n ${most === null ? sql`` : sql`FROM list_fits`}),
		list_page AS MATERIALIZED (
			SELECT cut.*, row_number() OVER () AS list_no FROM (
				SELECT ${piece(sql, `${idNames(source).join(', ')}, list_value::text AS list_value`)} FROM list_fits
				${beside(sql, source, by, up, from, stretch)} ${most === null ? sql`` : sql`AND (SELECT n FROM list_counted) <= ${most}`} ORDER BY ${piece(sql, orderOf(source, by, up, stretch))} LIMIT ${left}) cut)
		SELECT list_counted.n AS list_count, list_page.list_value, row.* FROM list_counted LEFT JOIN list_page ON true
			LEFT JOIN LATERAL (${piece(sql, rowOf(source, asked))}) row ON true ORDER BY list_page.list_no`;
	return {
		count: got[0].list_count,
		rows: got.filter((r) => r.id !== null).map(({ list_count: _count, ...r }) => r as Cut)
	};
}

/** So many rows of one item or bin, or that a text is in, are gathered: they lie together, and walking past all others takes longer. */
const MOST_FOUND = 50_000;
/** No limit. */
const WHOLE = 2_000_000_000;
/** Up to how many rows that fit are gathered and sorted; never fewer than are counted. */
const mostGathered = (source: ListSource, asked: ListAsked) => (source.whole?.(asked) ? WHOLE : mostFound(asked));
const mostFound = ({ find, ids }: ListAsked) =>
	find || Object.values(ids).some((x) => x.length === 1) ? MOST_FOUND : MOST_COUNTED;

/**
 * Is it known, before anything is gathered, that more fits than is gathered? It is where one thing alone is asked that an index
 * answers; the list is then walked at once. In its own order it is as soon as more fits than is counted.
 */
async function isMany(sql: Sql, source: ListSource, view: ListView, asked: ListAsked): Promise<boolean> {
	if (source.whole?.(asked) || (view.sort.key !== source.sort.key && mostFound(asked) > MOST_COUNTED)) return false;
	const filters = Object.keys(asked.filters);
	if (asked.find) return !filters.length && !!(await source.finds?.(sql, asked.find))?.many;
	for (const column of source.columns) {
		const ids = filters.includes(column.key) && column.fitting?.(sql, asked.filters[column.key], asked);
		if (ids) return (await firstOf(sql, ids)).different > MOST_COUNTED;
	}
	return false;
}

/** Is nothing asked? All of it fits then: it is walked. */
const isWhole = (source: ListSource, asked: ListAsked) =>
	!asked.find && !Object.keys(asked.filters).length && !source.whole?.(asked);

/** Some rows, and how many there are: gathered where few enough fit; walked otherwise, and then not counted to the end. */
async function counted(
	sql: Sql,
	source: ListSource,
	view: ListView,
	asked: ListAsked,
	at: At
): Promise<Part & { count: number; uncounted: boolean }> {
	if (isWhole(source, asked)) {
		const [page, count] = await Promise.all([
			part(sql, source, view, asked, at, 'walked'),
			countWhole(sql, source, asked, MOST_COUNTED + 1)
		]);
		return { ...page, count, uncounted: count > MOST_COUNTED };
	}
	const most = mostGathered(source, asked);
	if (await isMany(sql, source, view, asked))
		return { ...(await part(sql, source, view, asked, at, 'walked')), count: MOST_COUNTED + 1, uncounted: true };
	const few = await part(sql, source, view, asked, at, { gathered: most });
	if (few.count <= most) return { ...few, uncounted: false };
	return { ...(await part(sql, source, view, asked, at, 'walked')), count: few.count, uncounted: true };
}

/** What is asked, with what the list narrows unasked, and what its choices stand for. */
async function askedOf(sql: Db, source: ListSource, view: ListView, today: string): Promise<ListAsked> {
	const filters = { ...source.unasked?.(view.find), ...view.filters };
	const read = source.columns.flatMap(({ key, ids }) =>
		ids && filters[key]?.is ? [{ key, is: filters[key].is, ids }] : []
	);
	const ids = await Promise.all(read.map(async (r) => [r.key, await r.ids(sql, r.is)] as const));
	return { today, find: view.find, filters, ids: Object.fromEntries(ids) };
}

/**
 * A page of a list, with how many rows there are, up to a limit. A page is found by the row it begins after, so that the
 * thousandth costs what the first does.
 * @param today where the firm is
 * @param login whose choice of columns counts
 */
export async function listPage(
	sql: Sql,
	source: ListSource,
	view: ListView,
	{ today, login }: { today: string; login: string }
): Promise<ListPage> {
	const asked = await askedOf(sql, source, view, today);
	const [at, back] = view.after ? [view.after, false] : [view.before, view.before !== null];
	const [shape, chosen, page] = await Promise.all([
		shapeOf(sql, source),
		chosenColumns(sql, login, source.key),
		counted(sql, source, view, asked, { from: at, before: back, size: view.size })
	]);
	const first = !at ? 0 : back ? Math.max(0, at.before - page.rows.length) : at.before;
	const [top, bottom] = page.ends;
	const hasBefore = back ? page.more : view.after !== null;
	const hasAfter = back ? true : page.more;
	return {
		shape,
		view,
		standing: source.unasked?.(view.find) ?? {},
		rows: source.finish ? await source.finish(sql, page.rows, asked) : page.rows,
		count: page.uncounted ? MOST_COUNTED : page.count,
		more: page.uncounted,
		first,
		next: hasAfter && bottom ? cursorText({ ...bottom, before: first + page.rows.length }) : null,
		previous: hasBefore && top ? cursorText({ ...top, before: first }) : null,
		chosen
	};
}

/** Some rows of a view, from its cursor on, and the cursor after them; null after the last. For programs, which read on to the end. */
export async function listRows(
	sql: Sql,
	source: ListSource,
	view: ListView,
	today: string
): Promise<{ rows: ListRow[]; next: string | null }> {
	const asked = await askedOf(sql, source, view, today);
	const at = { from: view.after, before: false, size: view.size };
	const page = isWhole(source, asked)
		? await part(sql, source, view, asked, at, 'walked')
		: await counted(sql, source, view, asked, at);
	return {
		rows: source.finish ? await source.finish(sql, page.rows, asked) : page.rows,
		next: page.more ? cursorText({ ...page.ends[1], before: 0 }) : null
	};
}

/** How many rows there are, counted no further than the limit; all of them without one. */
async function countOf(sql: Db, source: ListSource, asked: ListAsked, limit: number | null): Promise<number> {
	const [wheres, find] = [narrowed(sql, source, asked), await found(sql, source, asked.find)];
	const from = (isWhole(source, asked) && source.counts) || fromOf(source, asked);
	return rowsOf(sql, sql`${piece(sql, from)} ${all(sql, wheres)} ${find.where}`, limit);
}
/** The same where nothing is asked: as soon as that is known. */
async function countWhole(sql: Db, source: ListSource, asked: ListAsked, limit: number): Promise<number> {
	const least = source.atLeast ? await rowsOf(sql, piece(sql, source.atLeast), limit) : 0;
	return least === limit ? limit : countOf(sql, source, asked, limit);
}
/** How many rows a FROM has, counted no further than the limit. */
async function rowsOf(sql: Db, from: Fragment, limit: number | null): Promise<number> {
	const [{ n }] = await sql<
		{ n: number }[]
	>`SELECT count(*)::int AS n FROM (SELECT 1 FROM ${from} LIMIT ${limit}) counted`;
	return n;
}
/** How many rows fit a view, every one counted. */
export const countAll = (sql: Sql, source: ListSource, view: ListView, today: string): Promise<number> =>
	askedOf(sql, source, view, today).then((asked) => countOf(sql, source, asked, null));

/** How many rows of an export are read at once: so few that others are answered meanwhile. */
const BATCH = 1_000;

/**
 * Everything that fits a view, in its order, in batches: for an export. The order of all of it is found once, as ids; then the
 * rows are read by these.
 */
export async function* listAll(
	sql: Sql,
	source: ListSource,
	view: ListView,
	today: string
): AsyncGenerator<ListRow[], void> {
	const asked = await askedOf(sql, source, view, today);
	const by = source.columns.find((c) => c.key === view.sort.key)!;
	// Of few the value that they are ordered by is worked out for each.
	const most = mostGathered(source, asked);
	const few = !!by.together && (await countOf(sql, source, asked, most + 1)) <= most;
	const names = idNames(source);
	const key = piece(sql, `concat_ws('.', ${names.join(', ')})`);
	const row = piece(sql, rowOf(source, asked));
	for (const stretch of stretchesFrom(by, null, false)) {
		const { fitting } = await (few ? fittingOf(sql, source, by, asked, {}) : fittingAll(sql, source, by, asked));
		const order = piece(sql, orderOf(source, by, !view.sort.down, stretch));
		const [{ keys }] = await sql<{ keys: string | null }[]>`
			SELECT string_agg(key, ',') AS keys FROM (
				SELECT ${key} AS key FROM (${fitting}) list_fits ${beside(sql, source, by, true, null, stretch)} ORDER BY ${order}) in_order`;
		for (const some of batches(keys ?? '')) {
			const ids = names.reduce(
				(sum, _name, i) => sql`${sum} ${piece(sql, i ? ',' : '')} ${some.map((k) => k[i])}::bigint[]`,
				nothing(sql)
			);
			const rows = await sql<ListRow[]>`
				SELECT row.* FROM unnest(${ids}) WITH ORDINALITY list_page(${piece(sql, names.join(', '))}, list_no)
					CROSS JOIN LATERAL (${row}) row ORDER BY list_page.list_no`;
			if (rows.length) yield source.finish ? await source.finish(sql, [...rows], asked) : [...rows];
		}
	}
}
/** Keys out of one text, so many at a time: of a million no list is made. */
function* batches(keys: string): Generator<string[][]> {
	for (let from = 0; from < keys.length;) {
		const some: string[][] = [];
		while (from < keys.length && some.length < BATCH) {
			const end = keys.indexOf(',', from);
			some.push(keys.slice(from, end < 0 ? keys.length : end).split('.'));
			from = end < 0 ? keys.length : end + 1;
		}
		yield some;
	}
}

/** The columns that a person has chosen for a list; null when none are. */
export async function chosenColumns(sql: Db, login: string, list: string): Promise<string[] | null> {
	const [row] = await sql<
		{ columns: string[] }[]
	>`SELECT columns FROM list_choice WHERE login = ${login} AND list = ${list}`;
	return row?.columns ?? null;
}

/** Keeps a person's choice of columns; none, or only columns that there are not, brings back what shows unasked. */
export async function chooseColumns(sql: Db, login: string, source: ListSource, keys: readonly string[]) {
	const columns = source.columns.filter((c) => !c.filterOnly && keys.includes(c.key)).map((c) => c.key);
	if (!columns.length) await sql`DELETE FROM list_choice WHERE login = ${login} AND list = ${source.key}`;
	else
		await sql`INSERT INTO list_choice (login, list, columns) VALUES (${login}, ${source.key}, ${columns})
			ON CONFLICT (login, list) DO UPDATE SET columns = excluded.columns`;
}
