import Papa from 'papaparse';
import { parseDay } from '../dates/dates.ts';
import { parseQty } from '../quantity/quantity.ts';
import { next } from '../ranges/ranges.ts';

/** What a column of a table can be. */
export const FIELDS = {
	serial: 'serial',
	lot: 'lot',
	qty: 'quantity',
	expiresOn: 'expires',
	madeOn: 'made on',
	supplierLot: 'supplier’s lot'
} as const;
export type Field = keyof typeof FIELDS;
/** For each column its field; null is left out. */
export type Mapping = (Field | null)[];

/** Headings that people and programs write (common practice), without case, blanks and signs. */
const SYNONYMS: Record<Field, string[]> = {
	serial: ['serial', 'serialno', 'serialnumber', 'serials', 'sn', 'sno', 'number', 'no', 'unit'],
	lot: ['lot', 'lotno', 'lotnumber', 'batch', 'batchno', 'batchnumber', 'charge'],
	qty: ['qty', 'quantity', 'amount', 'pieces', 'pcs', 'count', 'weight', 'netweight'],
	expiresOn: ['expires', 'expireson', 'expiry', 'expirydate', 'expirationdate', 'exp', 'useby', 'bestbefore', 'bbd'],
	madeOn: ['madeon', 'made', 'productiondate', 'manufactured', 'manufacturedon', 'mfgdate', 'dom'],
	supplierLot: ['supplierlot', 'supplierslot', 'vendorlot', 'suppliersbatch', 'supplierbatch', 'theirlot']
};
const bare = (heading: string) => heading.toLowerCase().replace(/[^a-z]/g, '');

/** Splits a text into cells: pasted from a spreadsheet (tabs), or CSV (RFC 4180; comma or semicolon). Blank rows are left out. */
export function readCells(text: string): string[][] {
	const delimiter = text.includes('\t') ? '\t' : '';
	const { data } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { delimiter, skipEmptyLines: 'greedy', delimitersToGuess: [',', ';', '|'] }); // prettier-ignore
	return data.map((row) => row.map((c) => c.trim()));
}
/** The fields that an item's numbers have. */
export const fieldsFor = (tracking: string): Field[] =>
	(Object.keys(FIELDS) as Field[]).filter(
		(f) => (f !== 'serial' || tracking.includes('serial')) && (f !== 'lot' || tracking.includes('lot')) && (f !== 'qty' || !tracking.includes('serial')) // prettier-ignore
	);

/**
 * Guesses what each column is from its heading.
 * @returns the mapping, and whether the first row is headings at all
 */
export function guess(first: string[], tracking: string): { mapping: Mapping; headings: boolean } {
	const fields = fieldsFor(tracking);
	const taken = new Set<Field>();
	const mapping = first.map((cell): Field | null => {
		const word = bare(cell);
		let found = fields.find((f) => !taken.has(f) && SYNONYMS[f].includes(word)) ?? null;
		// "Number" is the lot's where there are no serials.
		if (!found && !tracking.includes('serial') && !taken.has('lot') && ['number', 'no'].includes(word) && fields.includes('lot')) found = 'lot'; // prettier-ignore
		if (found) taken.add(found);
		return found;
	});
	if (taken.size) return { mapping, headings: true };
	const order: Field[] = tracking === 'serial' ? ['serial'] : tracking === 'lot and serial' ? ['lot', 'serial'] : tracking === 'lot' ? ['lot', 'qty', 'expiresOn'] : ['qty']; // prettier-ignore
	return { mapping: first.map((_, i) => order[i] ?? null), headings: false };
}

export interface TableRow {
	lot?: string;
	serial?: string;
	count?: number;
	qty?: string;
	expiresOn?: string;
	madeOn?: string;
	supplierLot?: string;
}
export interface TableFault {
	/** as counted in the file, from 1 */
	row: number;
	message: string;
}
/**
 * Makes sheet rows of a table; consecutive serials with the same facts become one row. Every faulty row is named.
 * @param skip 1 when the first row is headings
 * @param lot the lot that stands beside, for tables without a column of lots
 */
export function mapRows(
	cells: string[][],
	mapping: Mapping,
	skip: number,
	line: { tracking: string; decimals: number; unit: string },
	lot = ''
): { rows: TableRow[]; numbers: number; faults: TableFault[] } {
	const faults: TableFault[] = [];
	const rows: TableRow[] = [];
	let numbers = 0;
	for (let i = skip; i < cells.length; i++) {
		const row: TableRow = {};
		const say = (message: string) => faults.push({ row: i + 1, message });
		mapping.forEach((field, c) => {
			const value = cells[i][c]?.slice(0, 200);
			if (field && value) row[field] = value;
		});
		if (lot && line.tracking.includes('lot')) row.lot ??= lot;
		if (line.tracking.includes('serial') && !row.serial) say('has no serial.');
		if (line.tracking.includes('lot') && !row.lot) say('has no lot.');
		if (!line.tracking.includes('serial')) {
			const q = parseQty(row.qty ?? '', line.decimals, line.unit);
			if ('problem' in q) say(row.qty ? q.problem : 'has no quantity.');
			else row.qty = q.qty;
		}
		for (const field of ['expiresOn', 'madeOn'] as const) {
			if (!row[field]) continue;
			const day = parseDay(row[field]);
			if ('problem' in day) say(day.problem);
			else row[field] = day.day;
		}
		numbers++;
		const open = rows.at(-1);
		const same = (a: TableRow, b: TableRow) => (['lot', 'expiresOn', 'madeOn', 'supplierLot'] as const).every((f) => a[f] === b[f]); // prettier-ignore
		if (row.serial && open?.serial && same(open, row) && next(open.serial, open.count!) === row.serial) open.count!++;
		else rows.push(row.serial ? { ...row, count: 1 } : row);
	}
	return { rows, numbers, faults };
}
