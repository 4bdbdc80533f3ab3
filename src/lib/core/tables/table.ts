import Papa from 'papaparse';
import { parseDay } from '../dates/dates.ts';
import { readFact, type Fact, type Facts } from '../facts/fact.ts';
import { parseQty } from '../quantity/quantity.ts';
import { typedNumber } from '../quantity/sign.ts';
import { next } from '../ranges/ranges.ts';

/** What a column of a table can be; a fact stands under "fact " and its code. */
const FIELDS = {
	serial: 'serial',
	lot: 'lot',
	qty: 'quantity',
	expiresOn: 'expires',
	madeOn: 'made on',
	supplierLot: 'supplier’s lot',
	supplierSerial: 'supplier’s serial',
	place: 'bin'
} as const;
type Own = keyof typeof FIELDS;
/** A field that a column can be, by its name. */
export type Field = Own | `fact ${string}`;
const isOwn = (field: Field): field is Own => Object.hasOwn(FIELDS, field);
/** For each column its field; null is left out. */
export type Mapping = (Field | null)[];
/** What the rows of a table are for. */
export interface TableLine {
	tracking: string;
	decimals: number;
	unit: string;
	facts?: readonly Fact[];
}

/** Headings that people and programs write (common practice), without case, blanks and signs. */
const SYNONYMS: Record<Own, string[]> = {
	serial: ['serial', 'serialno', 'serialnumber', 'serials', 'sn', 'sno', 'number', 'no', 'unit'],
	lot: ['lot', 'lotno', 'lotnumber', 'batch', 'batchno', 'batchnumber', 'charge'],
	qty: ['qty', 'quantity', 'amount', 'pieces', 'pcs', 'count', 'weight', 'netweight'],
	expiresOn: ['expires', 'expireson', 'expiry', 'expirydate', 'expirationdate', 'exp', 'useby', 'bestbefore', 'bbd'],
	madeOn: ['madeon', 'made', 'productiondate', 'manufactured', 'manufacturedon', 'mfgdate', 'dom'],
	supplierLot: ['supplierlot', 'supplierslot', 'vendorlot', 'suppliersbatch', 'supplierbatch', 'theirlot'],
	supplierSerial: ['supplierserial', 'suppliersserial', 'vendorserial', 'theirserial'],
	place: ['bin', 'place', 'location', 'shelf', 'to', 'goesto']
};
const plainHeading = (heading: string) => heading.toLowerCase().replace(/[^\p{L}\d]/gu, '');

/** Splits a text into cells: pasted from a spreadsheet (tabs), or CSV (RFC 4180; comma or semicolon). Blank rows are left out. */
export function readCells(text: string): string[][] {
	const delimiter = text.includes('\t') ? '\t' : '';
	const { data } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), {
		delimiter,
		skipEmptyLines: 'greedy',
		delimitersToGuess: [',', ';', '|']
	});
	return data.map((row) => row.map((c) => c.trim()));
}
/** The fields that a line's numbers have, with what each is called. */
export function fieldsFor(line: TableLine): { field: Field; label: string }[] {
	const serials = line.tracking.includes('serial');
	const own = (Object.keys(FIELDS) as Own[]).filter(
		(f) =>
			((f !== 'serial' && f !== 'supplierSerial') || serials) &&
			(f !== 'lot' || line.tracking.includes('lot')) &&
			(f !== 'qty' || !serials)
	);
	return [
		...own.map((field) => ({ field, label: FIELDS[field] })),
		...(line.facts ?? [])
			.filter((f) => f.kind !== 'file')
			.map((f) => ({ field: `fact ${f.code}` as const, label: f.name }))
	];
}

/**
 * Guesses what each column is from its heading.
 * @returns the mapping, and whether the first row is headings at all
 */
export function guess(first: string[], line: TableLine): { mapping: Mapping; headings: boolean } {
	const { tracking } = line;
	const fields = fieldsFor(line);
	const meant = ({ field, label }: (typeof fields)[0], word: string) =>
		field.startsWith('fact ')
			? [plainHeading(label), plainHeading(field.slice(5))].includes(word)
			: SYNONYMS[field as Own].includes(word);
	const taken = new Set<Field>();
	const mapping = first.map((cell): Field | null => {
		const word = plainHeading(cell);
		let found = fields.find((f) => !taken.has(f.field) && meant(f, word))?.field ?? null;
		// "Number" is the lot's where there are no serials.
		if (
			!found &&
			!tracking.includes('serial') &&
			!taken.has('lot') &&
			['number', 'no'].includes(word) &&
			tracking.includes('lot')
		)
			found = 'lot';
		if (found) taken.add(found);
		return found;
	});
	if (taken.size) return { mapping, headings: true };
	const order: Field[] =
		tracking === 'serial'
			? ['serial']
			: tracking === 'lot and serial'
				? ['lot', 'serial']
				: tracking === 'lot'
					? ['lot', 'qty', 'expiresOn']
					: ['qty'];
	return { mapping: first.map((_, i) => order[i] ?? null), headings: false };
}

/** One row of a table as it goes into the sheet. */
export interface TableRow {
	lot?: string;
	serial?: string;
	count?: number;
	qty?: string;
	expiresOn?: string;
	madeOn?: string;
	supplierLot?: string;
	supplierSerial?: string;
	place?: string;
	facts?: Facts;
}
/** What is wrong with one row of a table. */
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
	line: TableLine,
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
			if (!field || !value) return;
			if (isOwn(field)) row[field] = value;
			else (row.facts ??= {})[field.slice(5)] = value;
		});
		if (lot && line.tracking.includes('lot')) row.lot ??= lot;
		if (line.tracking.includes('serial') && !row.serial) say('has no serial.');
		if (line.tracking.includes('lot') && !row.lot) say('has no lot.');
		if (!line.tracking.includes('serial')) {
			const q = parseQty(typedNumber(row.qty ?? '', line.decimals), line.decimals, line.unit);
			if ('problem' in q) say(row.qty ? q.problem : 'has no quantity.');
			else row.qty = q.qty;
		}
		for (const field of ['expiresOn', 'madeOn'] as const) {
			if (!row[field]) continue;
			const day = parseDay(row[field]);
			if ('problem' in day) say(day.problem);
			else row[field] = day.day;
		}
		for (const fact of line.facts ?? []) {
			const typed = row.facts?.[fact.code];
			if (!typed) continue;
			const read = readFact(fact, fact.kind === 'number' ? typedNumber(typed, fact.decimals) : typed);
			if ('problem' in read) say(read.problem);
			else row.facts![fact.code] = read.value;
		}
		numbers++;
		const open = rows.at(-1);
		const same = (a: TableRow, b: TableRow) =>
			(['lot', 'expiresOn', 'madeOn', 'supplierLot', 'place'] as const).every((f) => a[f] === b[f]) &&
			JSON.stringify(a.facts ?? {}) === JSON.stringify(b.facts ?? {}) &&
			(a.supplierSerial ? next(a.supplierSerial, a.count!) : undefined) === b.supplierSerial;
		if (row.serial && open?.serial && same(open, row) && next(open.serial, open.count!) === row.serial) open.count!++;
		else rows.push(row.serial ? { ...row, count: 1 } : row);
	}
	return { rows, numbers, faults };
}
