import { cardText, type Card } from '../codes/card.ts';
import { buildElements, buildLink, writeDate, type Element } from '../codes/gs1.ts';
import { showDay, type Day } from '../dates/dates.ts';

/** The symbols that a label can carry (ISO/IEC 16022, 18004, 15417). */
export const symbols = ['GS1 DataMatrix', 'QR code', 'Code 128'] as const;
/** One of them. */
export type SymbolKind = (typeof symbols)[number];
/** The resolutions of printers, in dots per inch. */
export const resolutions = [203, 300, 600] as const;
/** One of them. */
export type Dpi = (typeof resolutions)[number];

/** What a label is for. */
export interface Subject {
	/** "mark 17" or "place QS/A1": what its prints are counted by */
	subject: string;
	kind: 'lot' | 'serial' | 'place' | 'pallet' | 'card';
	/** of a pallet its SSCC, of a work card its serial or order */
	number: string;
	/** the lot that a serial belongs to */
	lot: string | null;
	/** the item's or the place's name */
	name: string;
	item: string | null;
	gtin: string | null;
	expiresOn: Day | null;
	/** how much of a lot, with its unit */
	qty: string | null;
	/** the supplier's numbers, where they are printed too */
	theirs?: string | null;
	/** what a work card says */
	card?: Card;
}
/** Sizes of labels in mm, wide × high: from a small one for a component to A6 for a pallet (common practice). */
export const SIZES = {
	'50 × 25': { width: 50, height: 25 },
	'70 × 35': { width: 70, height: 35 },
	'100 × 50': { width: 100, height: 50 },
	'148 × 105': { width: 148, height: 105 }
} as const;
/** A size of label by its name, in mm wide × high. */
export type LabelSize = keyof typeof SIZES;
/** One label, ready to be drawn. */
export interface Label {
	subject: string;
	/** the kind of code in the drawing library's words */
	bcid: 'datamatrix' | 'qrcode' | 'code128';
	/** what the code holds, and what a scanner sends when it reads it; a GS1 element string with its identifier ]d2 or ]C1 */
	reads: string;
	/** beneath the code */
	number: string;
	lines: string[];
}

/** A link needs a place to lead to; this one is GS1's own. */
export const LINK_BASE = 'https://id.gs1.org';

/** The elements that tell a lot or serial apart: item, expiry, lot, serial. Null without a GTIN. */
export function elementsOf(s: Subject): Element[] | null {
	if (s.kind === 'pallet') return [{ ai: '00', value: s.number }];
	if (!s.gtin || s.kind === 'place' || s.kind === 'card') return null;
	const fits = (t: string) => t.length <= 20 && /^[!"%&'()*+,\-./0-9:;<=>?A-Z_a-z]+$/.test(t);
	const lot = s.kind === 'lot' ? s.number : s.lot;
	if (![s.number, ...(lot ? [lot] : [])].every(fits)) return null;
	return [
		{ ai: '01', value: s.gtin },
		...(s.expiresOn ? [{ ai: '17', value: writeDate(s.expiresOn) }] : []),
		...(lot ? [{ ai: '10', value: lot }] : []),
		...(s.kind === 'serial' ? [{ ai: '21', value: s.number }] : [])
	];
}

/**
 * Makes a label. A GS1 code needs a GTIN and a number that GS1 codes can hold; without them the code carries the plain
 * number, which Earmark's scan line takes as well.
 */
export function labelOf(s: Subject, symbol: SymbolKind): Label {
	const elements = elementsOf(s);
	const rest = {
		subject: s.subject,
		number: s.number,
		lines: [
			s.name,
			...(s.kind === 'place' ? [] : [[s.item, s.qty].filter(Boolean).join(' · ')].filter(Boolean)),
			...(s.card?.serial ? [`Order ${s.card.order}`] : []),
			...(s.kind === 'serial' && s.lot ? [`Lot ${s.lot}`] : []),
			...(s.expiresOn ? [`Expires ${showDay(s.expiresOn)}`] : []),
			...(s.theirs ? [`Supplier’s ${s.theirs}`] : [])
		]
	};
	if (s.card) {
		const bcid = ({ 'GS1 DataMatrix': 'datamatrix', 'QR code': 'qrcode', 'Code 128': 'code128' } as const)[symbol];
		return { ...rest, bcid, reads: cardText(s.card, symbol === 'QR code' ? null : s.gtin) };
	}
	// A pallet's bars are GS1-128, so that the number is known for an SSCC; others carry the plain number.
	if (symbol === 'Code 128')
		return { ...rest, bcid: 'code128', reads: s.kind === 'pallet' ? ']C1' + buildElements(elements!) : s.number };
	if (symbol === 'QR code') {
		const link = elements ? buildLink(LINK_BASE, elements) : s.number;
		return { ...rest, bcid: 'qrcode', reads: link };
	}
	return { ...rest, bcid: 'datamatrix', reads: elements ? ']d2' + buildElements(elements) : s.number };
}

/**
 * How many of the printer's dots one module gets: whole dots, so that no bar is blurred. Two-dimensional codes get
 * about 0.5 mm, in an even number of dots, as they are drawn at twice the grid; bars about 0.25 mm (common practice for
 * labels read by hand).
 */
export const dotsPerModule = (bcid: Label['bcid'], dpi: Dpi): number =>
	bcid === 'code128' ? Math.max(2, Math.round((0.25 / 25.4) * dpi)) : 2 * Math.max(1, Math.round((0.25 / 25.4) * dpi));
