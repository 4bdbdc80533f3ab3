import {
	bySpan,
	cursorText,
	type Cursor,
	type ListPage,
	type ListRow,
	type ListShape,
	type ListView
} from '../../core/list/list.ts';
import type { Db, Sql } from '../database/connect.ts';
import { like } from '../database/like.ts';
import { nothing, type Piece } from '../database/piece.ts';
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
/** How a column sorts: words as people count, B2 before B10. */
const order = (c: SourceColumn) => `${c.from}${TYPES[c.kind] === 'text' ? ' COLLATE natural_order' : ''}`;

/** Text of the code's own as a piece of a statement. */
const piece = (sql: Db, text: string): Piece => sql`${sql.unsafe(text)}`;

/** What a list is, for a page: its columns with what there is to choose from. */
export async function shapeOf(sql: Db, source: ListSource): Promise<ListShape> {
	const columns = await Promise.all(
		source.columns.map(async ({ from: _from, text: _text, filled: _filled, where: _where, options, ...column }) =>
			options ? { ...column, choices: await options(sql) } : column
		)
	);
	const { key, title, sort, find, empty } = source;
	return { key, title, columns, sort, find, empty };
}

function narrowed(sql: Db, source: ListSource, asked: ListAsked): Piece[] {
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
async function found(sql: Db, source: ListSource, text: string): Promise<{ where: Piece }> {
	if (!text) return { where: sql`` };
	if (source.finds) return { where: sql`AND ${(await source.finds(sql, text)).where}` };
	// What is chosen from names that are set up is looked for by its name too.
	const words = source.columns.filter((c) => c.from && (c.kind === 'text' || c.options)).map((c) => c.from);
	const pattern = `%${like(text.toLowerCase())}%`;
	return { where: sql`AND lower(concat_ws(' ', ${piece(sql, words.join(', '))})) LIKE ${pattern}` };
}

/** Where the rows come from, as it is asked. */
const fromOf = (source: ListSource, asked: ListAsked) =>
	typeof source.from === 'string' ? source.from : source.from(asked);

/** All pieces joined. */
const all = (sql: Db, pieces: Piece[]) => pieces.reduce((sum, p) => sql`${sum} ${p}`, nothing(sql));

/** Rows after a cursor, or before it, in the list's order; what has no value stands last. */
function beside(sql: Db, { id }: ListSource, c: SourceColumn, down: boolean, at: Cursor, before: boolean): Piece {
	const [value, type] = [piece(sql, order(c)), piece(sql, TYPES[c.kind])];
	const collate = piece(sql, TYPES[c.kind] === 'text' ? 'COLLATE natural_order' : '');
	const sign = piece(sql, down === before ? '>' : '<');
	const limit = sql`${at.value}::text::${type} ${collate}`;
	const ids = piece(sql, id.join(', '));
	const last = at.id
		.split('.')
		.reduce((sum, x, i) => (i ? sql`${sum}, ${x}::bigint` : sql`${x}::bigint`), nothing(sql));
	if (c.filled) return sql`AND (${value}, ${ids}) ${sign} (${limit}, ${last})`;
	if (at.value === null)
		return before
			? sql`AND (${value} IS NOT NULL OR (${ids}) ${sign} (${last}))`
			: sql`AND ${value} IS NULL AND (${ids}) ${sign} (${last})`;
	const next = sql`${value} ${sign} ${limit} OR (${value} = ${limit} AND (${ids}) ${sign} (${last}))`;
	return before ? sql`AND (${next})` : sql`AND (${next} OR ${value} IS NULL)`;
}

interface Part {
	rows: ListRow[];
	/** cursor values of the first and the last row */
	ends: { value: string | null; id: string }[];
	more: boolean;
}
/**
 * Some rows in the list's order. The page is cut first, by what it is sorted and narrowed by; only then is each of its
 * rows read, so that what a column costs is paid for the rows that show.
 */
async function part(
	sql: Sql,
	source: ListSource,
	view: ListView,
	asked: ListAsked,
	at: Cursor | null,
	before: boolean,
	size: number
): Promise<Part> {
	const by = source.columns.find((c) => c.key === view.sort.key)!;
	const columns = source.columns.filter(isRead).map((c) => `${textOf(c)} AS "${c.key}"`);
	const also = Object.entries(source.also ?? {}).map(([name, from]) => `(${from})::text AS "${name}"`);
	const way = view.sort.down === before ? 'ASC' : 'DESC';
	const [wheres, find] = [narrowed(sql, source, asked), await found(sql, source, asked.find)];
	// A cursor of another list, or made up, is no place in this one.
	const besides =
		at && at.id.split('.').length === source.id.length
			? beside(sql, source, by, view.sort.down, at, before)
			: nothing(sql);
	const empty = by.filled ? [] : [`(${by.from} IS NULL) ${before ? 'DESC' : 'ASC'}`];
	const orderBy = [...empty, `${order(by)} ${way}`, ...source.id.map((id) => `${id} ${way}`)].join(', ');
	const ids = source.id.map((id, i) => `${id} AS list_id${i}`).join(', ');
	const same = source.id.map((id, i) => `${id} = page.list_id${i}`).join(' AND ');
	const idText = source.id.map((id) => `${id}::text`).join(" || '.' || ");
	const got = await sql<(ListRow & { list_value: string | null })[]>`
		WITH page AS MATERIALIZED (
			SELECT cut.*, row_number() OVER () AS list_no FROM (
				SELECT ${piece(sql, `${ids}, (${by.from})::text AS list_value`)} FROM ${piece(sql, fromOf(source, asked))}
				${all(sql, wheres)} ${find.where} ${besides} ORDER BY ${piece(sql, orderBy)} LIMIT ${size + 1}) cut)
		SELECT page.list_value, row.* FROM page CROSS JOIN LATERAL (
			SELECT ${piece(sql, [`${idText} AS id`, ...columns, ...also].join(', '))}
			FROM ${piece(sql, fromOf(source, asked))} AND ${piece(sql, same)} OFFSET 0) row ORDER BY page.list_no`;
	const rows = got.slice(0, size);
	if (before) rows.reverse();
	return {
		ends: rows.length ? [rows[0], rows[rows.length - 1]].map((r) => ({ value: r.list_value, id: r.id })) : [],
		rows: rows.map(({ list_value: _value, ...r }) => r),
		more: got.length > size
	};
}

/** What is asked, with what the list narrows unasked. */
const askedOf = (source: ListSource, view: ListView, today: string): ListAsked => ({
	today,
	find: view.find,
	filters: { ...source.unasked?.(view.find), ...view.filters }
});

/**
 * A page of a list, with how many rows there are in all. A page is found by the row it begins after, so that the
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
	const asked = askedOf(source, view, today);
	const [at, back] = view.after ? [view.after, false] : [view.before, view.before !== null];
	const [shape, page, count, chosen] = await Promise.all([
		shapeOf(sql, source),
		part(sql, source, view, asked, at, back, view.size),
		countOf(sql, source, asked),
		chosenColumns(sql, login, source.key)
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
		count,
		first,
		next: hasAfter && bottom ? cursorText({ ...bottom, before: first + page.rows.length }) : null,
		previous: hasBefore && top ? cursorText({ ...top, before: first }) : null,
		chosen
	};
}

async function countOf(sql: Db, source: ListSource, asked: ListAsked): Promise<number> {
	const [wheres, find] = [narrowed(sql, source, asked), await found(sql, source, asked.find)];
	const [{ n }] = await sql<
		{ n: number }[]
	>`SELECT count(*)::int AS n FROM ${piece(sql, fromOf(source, asked))} ${all(sql, wheres)} ${find.where}`;
	return n;
}

/** How many rows of an export are read at once. */
const BATCH = 5_000;
/** Everything that fits a view, in its order, in batches: for an export. */
export async function* listAll(
	sql: Sql,
	source: ListSource,
	view: ListView,
	today: string
): AsyncGenerator<ListRow[], void> {
	const asked = askedOf(source, view, today);
	let at: Cursor | null = null;
	for (;;) {
		const got: Part = await part(sql, source, view, asked, at, false, BATCH);
		if (got.rows.length) yield source.finish ? await source.finish(sql, got.rows, asked) : got.rows;
		if (!got.more) return;
		at = { ...got.ends[1], before: 0 };
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
