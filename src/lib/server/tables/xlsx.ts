import { grouped, written } from '../../core/quantity/sign.ts';
import type ExcelJS from 'exceljs';
import yauzl from 'yauzl';
import { Problem } from '../../core/problem/problem.ts';
import { badText } from '../../core/text/text.ts';

/** The most rows and columns that a table may have. */
export const MOST_ROWS = 20_000;
const MOST_COLUMNS = 200;
/** The most that a file may unpack to, in bytes. */
export const MOST_UNPACKED = 100_000_000;
/** The most parts that a file may consist of. */
const MOST_PARTS = 1000;

const unreadable = () => new Problem('This is not an XLSX file that can be read. Save it anew, or save it as CSV.');
const tooLarge = () => new Problem('The file unpacks to more than 100 MB. Save it as CSV, or split it.', 413);

/** What is not read of a sheet, because a few letters of it can stand for every cell that there could be. */
const NOT_READ = ['dataValidations', 'conditionalFormatting', 'mergeCells', 'autoFilter', 'hyperlinks', 'cols'];
const tooLong = (rows: number) =>
	new Problem(`The sheet has ${grouped(rows)} rows; one file may have ${grouped(MOST_ROWS)}. Split it.`);

/** The highest row that a sheet's XML names, in a row or in a cell. */
function highestRow(xml: string): number {
	let highest = 0;
	for (const [, row, cell] of xml.matchAll(/<row\b[^>]*?\br="(\d+)"|<c\b[^>]*?\br="[A-Z]+(\d+)"/g))
		highest = Math.max(highest, Number(row ?? cell));
	return highest;
}

/**
 * Unpacks a ZIP as far as it may, counting the bytes that come out: a small file can unpack to one that fills the memory,
 * and may lie about it. A sheet that claims to be longer than one may be is refused before anything is made of it.
 * @throws Problem when it is no ZIP, lies about its sizes, or unpacks to too much
 */
export async function checkUnpacked(file: Uint8Array, most = MOST_UNPACKED): Promise<void> {
	const zip = await new Promise<yauzl.ZipFile>((done, fail) =>
		// yauzl compares what comes out with what the file says of itself, while it unpacks.
		yauzl.fromBuffer(Buffer.from(file), { lazyEntries: true, validateEntrySizes: true }, (e, z) =>
			e ? fail(unreadable()) : done(z)
		)
	);
	if (zip.entryCount > MOST_PARTS) throw unreadable();
	let bytes = 0;
	await new Promise<void>((done, fail) => {
		zip.on('error', () => fail(unreadable()));
		zip.on('end', done);
		zip.on('entry', (entry: yauzl.Entry) => {
			if (bytes + entry.uncompressedSize > most) return fail(tooLarge());
			zip.openReadStream(entry, (e, stream) => {
				if (e) return fail(unreadable());
				const sheet = /^\/?xl\/worksheets\/[^/]+\.xml$/i.test(entry.fileName);
				const content: Buffer[] = [];
				stream.on('data', (chunk: Buffer) => {
					bytes += chunk.length;
					if (sheet) content.push(chunk);
					if (bytes <= most) return;
					stream.destroy();
					fail(tooLarge());
				});
				stream.on('error', () => fail(unreadable()));
				stream.on('end', () => {
					const rows = sheet ? highestRow(Buffer.concat(content).toString()) : 0;
					if (rows > MOST_ROWS) fail(tooLong(rows));
					else zip.readEntry();
				});
			});
		});
		zip.readEntry();
	});
}

/**
 * The cells of an XLSX's first sheet that holds any, as text: dates as YYYY-MM-DD, formulas as what they gave.
 * @throws Problem when the file is none, or too long
 */
export async function readXlsx(file: ArrayBuffer): Promise<string[][]> {
	await checkUnpacked(new Uint8Array(file));
	// Loaded by whoever is the first to read one.
	const { default: excel } = await import('exceljs');
	const book = new excel.Workbook();
	await book.xlsx.load(file, { ignoreNodes: NOT_READ }).catch(() => {
		throw unreadable();
	});
	for (const sheet of book.worksheets) {
		const rows: string[][] = [];
		sheet.eachRow((row) => {
			const cells = Array.from({ length: Math.min(row.cellCount, MOST_COLUMNS) }, (_, i) =>
				text(row.getCell(i + 1).value)
			);
			if (cells.some((c) => c)) rows.push(cells);
		});
		if (rows.length > MOST_ROWS) throw tooLong(rows.length);
		const width = Math.max(0, ...rows.map((r) => r.length));
		if (rows.length) return rows.map((r) => [...r, ...Array<string>(width - r.length).fill('')]);
	}
	return [];
}

function text(value: ExcelJS.CellValue): string {
	if (value === null || value === undefined) return '';
	if (value instanceof Date) return Number.isNaN(value.getTime()) ? '' : value.toISOString().slice(0, 10);
	if (typeof value === 'object') {
		if ('richText' in value) return plain(value.richText.map((t) => t.text).join(''));
		if ('result' in value) return text(value.result as ExcelJS.CellValue);
		if ('text' in value) return plain(String(value.text));
		return '';
	}
	// A cell's number stands as it would have been typed.
	return typeof value === 'number' ? written(String(value)) : plain(String(value));
}
/** What cannot be stored is no cell's text. */
const plain = (t: string) => (badText(t) ? '' : t.trim().slice(0, 500));
