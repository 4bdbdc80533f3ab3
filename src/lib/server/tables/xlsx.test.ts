import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { row, withSheet, written, zip } from '../../../../tests/files.ts';
import { guess, mapRows } from '../../core/tables/table.ts';
import { checkUnpacked, MOST_UNPACKED, readXlsx } from './xlsx.ts';

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
		await expect(readXlsx(file)).rejects.toThrow('The sheet has 20,001 rows; one file may have 20,000');
	});
});

describe('a file that would do harm', () => {
	it('that says it unpacks to too much is refused before it is unpacked', () =>
		expect(readXlsx(zip(Buffer.from('x'), MOST_UNPACKED + 1))).rejects.toThrow('unpacks to more than 100 MB'));
	it('that unpacks to too much is refused while it is unpacked, whatever it says', async () => {
		const bytes = new Uint8Array(zip(Buffer.alloc(3_000_000), 3_000_000));
		await expect(checkUnpacked(bytes, 2_000_000)).rejects.toThrow('unpacks to more than 100 MB');
		await expect(checkUnpacked(bytes, 4_000_000)).resolves.toBeUndefined();
		await expect(checkUnpacked(new Uint8Array(zip(Buffer.alloc(3_000_000), 10)), 2_000_000)).rejects.toThrow(
			'not an XLSX file that can be read'
		);
	});
	it.each([
		[
			'a row number of 99,999,999',
			(xml: string) => xml.replace('</sheetData>', `${row(99_999_999)}</sheetData>`),
			'99,999,999 rows'
		],
		['a row beyond the most', (xml: string) => xml.replace('</sheetData>', `${row(20_001)}</sheetData>`), '20,001 rows']
	])('%s is refused where it stands', async (_what, change, says) => {
		await expect(readXlsx(await withSheet(change))).rejects.toThrow(says);
	});
	it.each([
		[
			'a merged range over the whole sheet',
			(xml: string) =>
				xml.replace('</sheetData>', '</sheetData><mergeCells count="1"><mergeCell ref="A1:XFD1048576"/></mergeCells>')
		],
		[
			'a validation over the whole sheet',
			(xml: string) =>
				xml.replace(
					'</sheetData>',
					'</sheetData><dataValidations count="1"><dataValidation type="whole" sqref="A1:XFD1048576"><formula1>1</formula1></dataValidation></dataValidations>'
				)
		]
	])('%s costs nothing: the cells are read', async (_what, change) => {
		expect(await readXlsx(await withSheet(change))).toEqual([['a']]);
	});
});
