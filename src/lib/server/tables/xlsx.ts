import ExcelJS from 'exceljs';
import { Problem } from '../../core/problem/problem.ts';

export const MOST_ROWS = 20_000;

/** The most that a file may unpack to, in bytes. */
export const MOST_UNPACKED = 100_000_000;
/**
 * What a ZIP says that it unpacks to, in bytes: the sum over its central directory (PKWARE APPNOTE 4.3.12). Something
 * that is no ZIP gives 0.
 */
export function unpackedSize(file: ArrayBuffer): number {
	const view = new DataView(file);
	let sum = 0;
	for (let at = 0; at + 46 <= view.byteLength; at++) {
		if (view.getUint8(at) !== 0x50 || view.getUint32(at, true) !== 0x02014b50) continue;
		sum += view.getUint32(at + 24, true);
		at += 45 + view.getUint16(at + 28, true) + view.getUint16(at + 30, true) + view.getUint16(at + 32, true);
	}
	return sum;
}

/**
 * The cells of an XLSX's first sheet that holds any, as text: dates as YYYY-MM-DD, formulas as what they gave.
 * @throws Problem when the file is none, or too long
 */
export async function readXlsx(file: ArrayBuffer): Promise<string[][]> {
	// A small file can unpack to one that fills the memory.
	if (unpackedSize(file) > MOST_UNPACKED) throw new Problem('The file unpacks to more than 100 MB. Save it as CSV, or split it.', 413); // prettier-ignore
	const book = new ExcelJS.Workbook();
	try {
		await book.xlsx.load(file);
	} catch {
		throw new Problem('This is not an XLSX file that can be read. Save it anew, or save it as CSV.');
	}
	const sheet = book.worksheets.find((s) => s.actualRowCount > 0);
	if (!sheet) return [];
	if (sheet.actualRowCount > MOST_ROWS)
		throw new Problem(`The sheet ${sheet.name} has ${sheet.actualRowCount.toLocaleString('en')} rows; one file may have ${MOST_ROWS.toLocaleString('en')}. Split it.`); // prettier-ignore
	const rows: string[][] = [];
	sheet.eachRow((row) => {
		const cells = Array.from({ length: sheet.actualColumnCount }, (_, i) => text(row.getCell(i + 1).value));
		if (cells.some((c) => c)) rows.push(cells);
	});
	return rows;
}

function text(value: ExcelJS.CellValue): string {
	if (value === null || value === undefined) return '';
	if (value instanceof Date) return value.toISOString().slice(0, 10);
	if (typeof value === 'object') {
		if ('richText' in value)
			return value.richText
				.map((t) => t.text)
				.join('')
				.trim();
		if ('result' in value) return text(value.result as ExcelJS.CellValue);
		if ('text' in value) return String(value.text).trim();
		return '';
	}
	return String(value).trim();
}
