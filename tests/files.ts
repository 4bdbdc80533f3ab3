import { crc32, deflateRawSync } from 'node:zlib';
import ExcelJS from 'exceljs';
import JSZip from 'jszip';

/** Files as people have them, and as somebody sends them who means harm. */

/** A workbook as a file. */
export async function written(fill: (book: ExcelJS.Workbook) => void): Promise<ArrayBuffer> {
	const book = new ExcelJS.Workbook();
	fill(book);
	const buffer = Buffer.from(await book.xlsx.writeBuffer());
	return buffer.buffer.slice(buffer.byteOffset, buffer.byteOffset + buffer.byteLength) as ArrayBuffer;
}

/** A ZIP with one deflated entry, whose directory says that it unpacks to so many bytes. */
export function zip(content: Buffer, says = content.length, name = 'xl/workbook.xml'): ArrayBuffer {
	const packed = deflateRawSync(content);
	const title = Buffer.from(name);
	const local = Buffer.alloc(30);
	local.writeUInt32LE(0x04034b50, 0);
	local.writeUInt16LE(20, 4);
	local.writeUInt16LE(8, 8);
	local.writeUInt32LE(crc32(content), 14);
	local.writeUInt32LE(packed.length, 18);
	local.writeUInt32LE(says, 22);
	local.writeUInt16LE(title.length, 26);
	const entry = Buffer.alloc(46);
	entry.writeUInt32LE(0x02014b50, 0);
	entry.writeUInt16LE(20, 6);
	entry.writeUInt16LE(8, 10);
	entry.writeUInt32LE(crc32(content), 16);
	entry.writeUInt32LE(packed.length, 20);
	entry.writeUInt32LE(says, 24);
	entry.writeUInt16LE(title.length, 28);
	const end = Buffer.alloc(22);
	const directory = local.length + title.length + packed.length;
	end.writeUInt32LE(0x06054b50, 0);
	end.writeUInt16LE(1, 8);
	end.writeUInt16LE(1, 10);
	end.writeUInt32LE(entry.length + title.length, 12);
	end.writeUInt32LE(directory, 16);
	const all = Buffer.concat([local, title, packed, entry, title, end]);
	return new Uint8Array(all).buffer;
}
/** A row of a sheet's XML. */
export const row = (no: number) => `<row r="${no}"><c r="A${no}" t="inlineStr"><is><t>x</t></is></c></row>`;
/** A workbook whose first sheet has the given XML. */
export async function withSheet(change: (xml: string) => string): Promise<ArrayBuffer> {
	const file = await written((book) => void book.addWorksheet('S').addRow(['a']));
	const parts = await JSZip.loadAsync(file);
	const name = 'xl/worksheets/sheet1.xml';
	parts.file(name, change(await parts.file(name)!.async('string')));
	return parts.generateAsync({ type: 'arraybuffer' });
}
