import { grouped } from '../../core/quantity/sign.ts';
import { PassThrough, Readable } from 'node:stream';
import Papa from 'papaparse';
import { shownColumns, type Column, type ListRow, type ListShape } from '../../core/list/list.ts';
import { Problem } from '../../core/problem/problem.ts';

/** The most rows of a sheet in a spreadsheet, its headings among them. */
const MOST_SHEET_ROWS = 1_048_576;

/** What a cell is called where it stands alone: words for choices, days and moments as they are (ISO 8601). */
export const cellText = (c: Column, row: ListRow) =>
	c.kind === 'choice'
		? (c.choices?.find((x) => x.value === row[c.key])?.label ?? row[c.key] ?? '')
		: (row[c.key] ?? '');

/** What is shown of a list as CSV (RFC 4180), in UTF-8, as it is read. A text that begins like a formula is quoted. */
export function csvOf(shape: ListShape, chosen: string[] | null, rows: AsyncIterable<ListRow[]>): ReadableStream {
	const columns = shownColumns(shape.columns, chosen);
	const lines = (cells: string[][]) => Papa.unparse(cells, { escapeFormulae: true, newline: '\r\n' }) + '\r\n';
	async function* text() {
		yield '\uFEFF' + lines([columns.map((c) => c.label)]);
		for await (const some of rows) yield lines(some.map((r) => columns.map((c) => cellText(c, r))));
	}
	return Readable.toWeb(Readable.from(text()).map((t: string) => Buffer.from(t))) as ReadableStream;
}

/**
 * What is shown of a list as XLSX (ISO/IEC 29500), as it is read: numbers as numbers, everything else as text.
 * @throws Problem when it is longer than a sheet may be
 */
export function xlsxOf(
	shape: ListShape,
	chosen: string[] | null,
	rows: AsyncIterable<ListRow[]>,
	count: number
): ReadableStream {
	if (count >= MOST_SHEET_ROWS)
		throw new Problem(
			`${grouped(count)} rows are more than a spreadsheet holds. Narrow the list, or export it as CSV.`,
			422
		);
	const columns = shownColumns(shape.columns, chosen);
	const out = new PassThrough();
	const value = (c: Column, row: ListRow) => {
		const text = cellText(c, row);
		// Beyond 15 digits a spreadsheet would round: such a number stays text.
		return c.kind === 'number' && text && text.replaceAll(/\D/g, '').length <= 15 ? Number(text) : text;
	};
	void (async () => {
		// Loaded by whoever is the first to want one.
		const { default: excel } = await import('exceljs');
		const book = new excel.stream.xlsx.WorkbookWriter({ stream: out });
		const sheet = book.addWorksheet(shape.title.replaceAll(/[*?:\\/[\]]/g, ' ').slice(0, 31));
		sheet.columns = columns.map((c) => ({ header: c.label, key: c.key, width: c.kind === 'text' ? 24 : 16 }));
		for await (const some of rows)
			for (const r of some) sheet.addRow(Object.fromEntries(columns.map((c) => [c.key, value(c, r)]))).commit();
		await book.commit();
	})().catch((e: Error) => out.destroy(e));
	return Readable.toWeb(out) as ReadableStream;
}
