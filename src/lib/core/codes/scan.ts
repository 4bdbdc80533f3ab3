import { cardLink, cardOf, type Card } from './card.ts';
import { gtin14 } from './check.ts';
import { GS, parseElements, parseLink, readDate, type Element } from './gs1.ts';

/** What one scan says. A plain number says only that; a GS1 code says which is which. */
export interface Scan {
	text: string;
	/** true when the code itself says what its parts are */
	coded: boolean;
	gtin?: string;
	sscc?: string;
	lot?: string;
	serial?: string;
	expiresOn?: string;
	madeOn?: string;
	/** pieces (30, 37), or net weight in kg (310n), as decimal text */
	qty?: string;
	weight?: string;
	/** a work card: the order, its line, and the finished serial */
	card?: Card;
	/** other elements, as read */
	other?: Element[];
}

/**
 * Makes sense of a scanned text: a GS1 element string, a GS1 Digital Link, or a plain number.
 * @param year this year, for two-digit years
 * @returns what it says, or what is wrong with a text that is plainly meant as a GS1 code
 */
export function readScan(text: string, year: number): Scan | { problem: string } {
	// A scanner sends the identifier of the code's kind first; those of plain codes say nothing more.
	const plain = text.replace(/^\][A-Za-z]\d/, (id) => (/^\](C1|d2|Q3|e\d|J1)$/.test(id) ? id : '')).trim();
	const card = cardLink(plain);
	if (card) return { text, coded: true, card, ...(card.serial ? { serial: card.serial } : {}) };
	if (/^https?:\/\//i.test(plain)) {
		const link = parseLink(plain);
		return 'problem' in link ? link : interpret(text, link.elements, year);
	}
	const sure = /^\]/.test(plain) || plain.includes(GS) || /^\(\d{2,4}\)/.test(plain);
	if (sure || (/^(00\d{18}|01\d{14})/.test(plain) && plain.length >= 16)) {
		const read = parseElements(plain);
		if (!('problem' in read)) return interpret(text, read.elements, year);
		if (sure) return { problem: `${read.problem} The code was not taken.` };
	}
	const gtin = gtin14(plain);
	return gtin && plain.length >= 12 ? { text, coded: true, gtin } : { text: plain, coded: false };
}

function interpret(text: string, elements: Element[], year: number): Scan | { problem: string } {
	const of = (ai: string) => elements.find((e) => e.ai === ai)?.value;
	const scan: Scan = { text, coded: true };
	for (const [field, ai] of [
		['gtin', '01'],
		['sscc', '00'],
		['lot', '10'],
		['serial', '21']
	] as const)
		if (of(ai)) scan[field] = of(ai);
	scan.gtin ??= of('02');
	for (const [field, ai] of [
		['expiresOn', '17'],
		['madeOn', '11']
	] as const) {
		const typed = of(ai);
		if (!typed) continue;
		const day = readDate(typed, year, ai === '11');
		if (!day) return { problem: `The code gives ${typed} as a date; there is no such day. Type what the label says.` };
		scan[field] = day;
	}
	const pieces = of('37') ?? of('30');
	if (pieces) scan.qty = String(Number(pieces));
	const weight = elements.find((e) => /^310[0-5]$/.test(e.ai));
	if (weight) scan.weight = shift(weight.value, Number(weight.ai[3]));
	const card = cardOf(elements);
	if (card) scan.card = card;
	const known = new Set(['00', '01', '02', '10', '11', '17', '21', '30', '37', weight?.ai]);
	const other = elements.filter((e) => !known.has(e.ai));
	if (other.length) scan.other = other;
	if (scan.gtin === undefined) delete scan.gtin;
	return scan;
}
const shift = (digits: string, decimals: number) => {
	const t = digits.padStart(decimals + 1, '0');
	const whole = t.slice(0, t.length - decimals).replace(/^0+(?=\d)/, '');
	const rest = decimals ? t.slice(-decimals).replace(/0+$/, '') : '';
	return rest ? `${whole}.${rest}` : whole;
};
