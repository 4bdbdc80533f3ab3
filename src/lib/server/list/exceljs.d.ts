/** The part of the library that writes a sheet row by row; it names no types of its own. */
declare module 'exceljs/lib/stream/xlsx/workbook-writer.js' {
	import { stream } from 'exceljs';
	export default stream.xlsx.WorkbookWriter;
}
