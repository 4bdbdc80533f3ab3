import { grouped } from '../../core/quantity/sign.ts';
import { PassThrough, Readable } from 'node:stream';
import Papa from 'papaparse';
import { shownColumns, type Column, type ListRow, type ListShape } from '../../core/list/list.ts';
import { Problem } from '../../core/problem/problem.ts';

/** The most rows of a sheet in a spreadsheet, its headings among them. */
const MOST_SHEET_ROWS = 1_048_576;

/** What the cells of a column are called where they stand alone: words for choices, days and moments as they are (ISO 8601). */
export function wordsOf({ key, kind, choices }: Column): (row: ListRow) => string {
	// There may be hundreds to choose from, and hundreds of thousands of rows.
	const labels = new Map(kind === 'choice' ? choices?.map((c) => [c.value, c.label]) : []);
	return (row) => {
		const text = row[key] ?? '';
		return labels.get(text) ?? text;
	};
}

/** What is shown of a list as CSV (RFC 4180), in UTF-8, as it is read. A text that begins like a formula is quoted. */
export function csvOf(shape: ListShape, chosen: string[] | null, rows: AsyncIterable<ListRow[]>): ReadableStream {
	const columns = shownColumns(shape.columns, chosen);
	const words = columns.map(wordsOf);
	const lines = (cells: string[][]) => Papa.unparse(cells, { escapeFormulae: true, newline: '\r\n' }) + '\r\n';
	async function* text() {
		yield '\uFEFF' + lines([columns.map((c) => c.label)]);
		for await (const some of rows) yield lines(some.map((r) => words.map((word) => word(r))));
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
	const cells = columns.map((c) => {
		const word = wordsOf(c);
		if (c.kind !== 'number') return word;
		return (row: ListRow) => {
			const text = word(row);
			// Beyond 15 digits a spreadsheet would round: such a number stays text.
			return text && text.replaceAll(/\D/g, '').length <= 15 ? Number(text) : text;
		};
	});
	void (async () => {
		// Loaded by whoever is the first to want one, and nothing but what writes: all of it keeps everybody waiting.
		const { default: Writer } = await import('exceljs/lib/stream/xlsx/workbook-writer.js');
		const book = new Writer({ stream: out });
		const sheet = book.addWorksheet(shape.title.replaceAll(/[*?:\\/[\]]/g, ' ').slice(0, 31));
		sheet.columns = columns.map((c) => ({ header: c.label, key: c.key, width: c.kind === 'text' ? 24 : 16 }));
		for await (const some of rows) {
			// Nobody waits for it any more.
			if (out.destroyed) return;
			for (const r of some) sheet.addRow(cells.map((cell) => cell(r))).commit();
		}
		await book.commit();
	})().catch((e: Error) => out.destroy(e));
	return Readable.toWeb(out) as ReadableStream;
}
