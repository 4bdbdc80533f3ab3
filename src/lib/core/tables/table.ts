import Papa from 'papaparse';
import { parseDay } from '../dates/dates.ts';
import { readFact, type Fact, type Facts } from '../facts/fact.ts';
import { parseQty } from '../quantity/quantity.ts';
import { typedNumber } from '../quantity/sign.ts';
import { next } from '../ranges/ranges.ts';

/** What a column of a table can be; a fact stands under "fact " and its code. */
const FIELDS = {
	item: 'item',
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
/** A line of the same document that rows of its item may go to. */
export interface ItemLine extends TableLine {
	id: string;
	item: string;
	itemName: string;
}

/** Headings that people and programs write (common practice), without case, blanks and signs. */
const SYNONYMS: Record<Own, string[]> = {
	item: [
		'item',
		'itemcode',
		'itemno',
		'itemnumber',
		'article',
		'articleno',
		'articlenumber',
		'product',
		'productcode',
		'material',
		'sku',
		'partno',
		'partnumber'
	],
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
/**
 * The fields that a line's numbers have, with what each is called.
 * @param others lines whose rows stand in the same table, told apart by their item
 */
export function fieldsFor(line: TableLine, others: readonly ItemLine[] = []): { field: Field; label: string }[] {
	const all = [line, ...others];
	const serials = all.some((l) => l.tracking.includes('serial'));
	const own = (Object.keys(FIELDS) as Own[]).filter(
		(f) =>
			((f !== 'serial' && f !== 'supplierSerial') || serials) &&
			(f !== 'lot' || all.some((l) => l.tracking.includes('lot'))) &&
			(f !== 'qty' || all.some((l) => !l.tracking.includes('serial')))
	);
	const facts = new Map(all.flatMap((l) => (l.facts ?? []).map((f) => [f.code, f] as const)));
	return [
		...own.map((field) => ({ field, label: FIELDS[field] })),
		...[...facts.values()]
			.filter((f) => f.kind !== 'file')
			.map((f) => ({ field: `fact ${f.code}` as const, label: f.name }))
	];
}
/** Has a table a column of items, by its headings? */
const hasItems = (first: readonly string[]) => first.some((cell) => SYNONYMS.item.includes(plainHeading(cell)));

/**
 * Guesses what each column is from its heading.
 * @returns the mapping, and whether the first row is headings at all
 */
export function guess(
	first: string[],
	line: TableLine,
	others: readonly ItemLine[] = []
): { mapping: Mapping; headings: boolean } {
	const { tracking } = line;
	const fields = fieldsFor(line, hasItems(first) ? others : []);
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
	/** id of the line that it goes to, by its item; the line that it was read for where it is left out */
	line?: string;
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
 * @param others lines of the same document: a row goes to the line of its item, and one whose item no line has is faulty
 */
export function mapRows(
	cells: string[][],
	mapping: Mapping,
	skip: number,
	line: TableLine & Partial<ItemLine>,
	lot = '',
	others: readonly ItemLine[] = []
): { rows: TableRow[]; numbers: number; faults: TableFault[] } {
	const own = line;
	const isOf = (l: Partial<ItemLine>, item: string) =>
		[l.item, l.itemName].some((name) => name?.toLowerCase() === item.toLowerCase());
	const byItem = mapping.includes('item');
	const faults: TableFault[] = [];
	const rows: TableRow[] = [];
	let numbers = 0;
	for (let i = skip; i < cells.length; i++) {
		const row: TableRow = {};
		let item = '';
		const say = (message: string) => faults.push({ row: i + 1, message });
		mapping.forEach((field, c) => {
			const value = cells[i][c]?.slice(0, 200);
			if (!field || !value) return;
			if (field === 'item') item = value;
			else if (isOwn(field)) row[field] = value;
			else (row.facts ??= {})[field.slice(5)] = value;
		});
		const to = !byItem || isOf(own, item) ? own : others.find((l) => isOf(l, item));
		if (!to) {
			say(item ? `${item} is on no line here. Take the row out, or add the item to the order.` : 'has no item.');
			continue;
		}
		const line: TableLine = to;
		if (to !== own) row.line = to.id;
		// What another line of the table has is nothing of this one.
		if (byItem) {
			if (!line.tracking.includes('serial')) {
				delete row.serial;
				delete row.supplierSerial;
			} else if (row.serial) delete row.qty;
			if (!line.tracking.includes('lot')) delete row.lot;
			for (const code of Object.keys(row.facts ?? {}))
				if (!line.facts?.some((f) => f.code === code)) delete row.facts![code];
		}
		if (lot && to === own && line.tracking.includes('lot')) row.lot ??= lot;
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
			(['line', 'lot', 'expiresOn', 'madeOn', 'supplierLot', 'place'] as const).every((f) => a[f] === b[f]) &&
			JSON.stringify(a.facts ?? {}) === JSON.stringify(b.facts ?? {}) &&
			(a.supplierSerial ? next(a.supplierSerial, a.count!) : undefined) === b.supplierSerial;
		if (row.serial && open?.serial && same(open, row) && next(open.serial, open.count!) === row.serial) open.count!++;
		else rows.push(row.serial ? { ...row, count: 1 } : row);
	}
	return { rows, numbers, faults };
}
