import ExcelJS from 'exceljs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { guess, mapRows } from '../../core/tables/table.ts';
import { MOST_UNPACKED, readXlsx, unpackedSize } from './xlsx.ts';

async function written(fill: (book: ExcelJS.Workbook) => void): Promise<ArrayBuffer> {
	const book = new ExcelJS.Workbook();
	fill(book);
	const buffer = Buffer.from(await book.xlsx.writeBuffer());
	return buffer.buffer.slice(buffer.byteOffset, buffer.byteOffset + buffer.byteLength) as ArrayBuffer;
}

describe('an XLSX', () => {
	it('is read as the text that a person sees: dates as days, formulas as what they gave, rich text plain', async () => {
		const file = await written((book) => {
			book.addWorksheet('Empty');
			book
				.addWorksheet('Delivery')
				.addRows([
					['Lot', 'Quantity', 'Expires', 'Note'],
					['A1', 12.5, new Date(Date.UTC(2027, 2, 31)), { richText: [{ text: 'half ' }, { text: 'a sack' }] }],
					['A2', { formula: 'B2*2', result: 25 }, '31 Mar 2027', { text: 'site', hyperlink: 'http://127.0.0.1' }],
					[],
					['A3', 0.125, null, true]
				]);
		});
		const cells = await readXlsx(file);
		expect(cells).toEqual([
			['Lot', 'Quantity', 'Expires', 'Note'],
			['A1', '12.5', '2027-03-31', 'half a sack'],
			['A2', '25', '31 Mar 2027', 'site'],
			['A3', '0.125', '', 'true']
		]);
		const line = { tracking: 'lot', decimals: 3, unit: 'kg' };
		const { mapping } = guess(cells[0], line);
		expect(mapRows(cells, mapping, 1, line).rows).toEqual([
			{ lot: 'A1', qty: '12.5', expiresOn: '2027-03-31' },
			{ lot: 'A2', qty: '25', expiresOn: '2027-03-31' },
			{ lot: 'A3', qty: '0.125' }
		]);
	});
	it('keeps every number that a person can type, leading zeros in text too', async () => {
		const cell = fc.stringMatching(/^[A-Z0-9][A-Z0-9./-]{0,19}$/);
		await fc.assert(
			fc.asyncProperty(fc.array(fc.tuple(cell, cell), { minLength: 1, maxLength: 12 }), async (rows) => {
				const file = await written((book) => void book.addWorksheet('x').addRows(rows));
				expect(await readXlsx(file)).toEqual(rows);
			}),
			{ numRuns: 25 }
		);
	});
	it('without anything in it is empty', async () => {
		expect(await readXlsx(await written((book) => void book.addWorksheet('x')))).toEqual([]);
	});
	it.each([
		['no file at all', new ArrayBuffer(0)],
		['another kind of file', new TextEncoder().encode('%PDF-1.4').buffer as ArrayBuffer],
		['a ZIP that is none', new TextEncoder().encode('PK\x03\x04 and nothing').buffer as ArrayBuffer]
	])('%s is refused in words', async (_what, file) => {
		await expect(readXlsx(file)).rejects.toThrow('This is not an XLSX file that can be read');
	});
	it('that is too long is refused, with how long it is', async () => {
		const file = await written((book) => {
			const sheet = book.addWorksheet('Long');
			for (let i = 0; i < 20_001; i++) sheet.addRow([i]);
		});
		await expect(readXlsx(file)).rejects.toThrow('Long has 20,001 rows; one file may have 20,000');
	}, 60_000);
});

describe('what a file unpacks to', () => {
	it('is said by its directory, before anything is unpacked', async () => {
		const small = await written((book) => void book.addWorksheet('x').addRow(['a']));
		const large = await written((book) => {
			const sheet = book.addWorksheet('x');
			for (let i = 0; i < 2000; i++) sheet.addRow(['the same text in every row, which packs well']);
		});
		expect(unpackedSize(small)).toBeGreaterThan(small.byteLength);
		expect(unpackedSize(large)).toBeGreaterThan(unpackedSize(small));
		expect(unpackedSize(new ArrayBuffer(100))).toBe(0);
	});
	it('is refused when it would fill the memory: a few bytes that claim a hundred megabytes', async () => {
		const entry = new DataView(new ArrayBuffer(46));
		entry.setUint32(0, 0x02014b50, true);
		entry.setUint32(24, MOST_UNPACKED + 1, true);
		expect(unpackedSize(entry.buffer)).toBe(MOST_UNPACKED + 1);
		await expect(readXlsx(entry.buffer)).rejects.toThrow('unpacks to more than 100 MB');
	});
});
