import { buildElements, type Element } from './gs1.ts';

/** The most work cards of one file. */
export const MOST_CARDS = 500;

/** What a work card says: the order and its line, and the finished serial; the order's own card names none. */
export interface Card {
	order: string;
	line: number;
	serial: string | null;
}

/** The element that a card's code has besides item and serial: company internal information (AI 91). */
const AI = '91';
/** So that another firm's use of that element on a part's label is not taken for a card. */
const MARK = 'CARD:';
/** A card's address where its item has no GTIN: like a GS1 Digital Link, and leading nowhere (RFC 6761, .invalid). */
const BASE = 'https://card.earmark.invalid';

/**
 * What the code of a card holds, and what a scanner sends when it reads it: a GS1 element string where the item has a
 * GTIN and GS1 can write the numbers, else an address.
 * @param gtin of the item that is made, 14 digits
 */
export function cardText({ order, line, serial }: Card, gtin: string | null): string {
	if (gtin)
		try {
			const elements: Element[] = [
				{ ai: '01', value: gtin },
				...(serial ? [{ ai: '21', value: serial }] : []),
				{ ai: AI, value: `${MARK}${order}/${line}` }
			];
			return ']d2' + buildElements(elements);
		} catch {
			// A number that is too long for GS1, or has signs that it cannot write.
		}
	const path = ['order', order, 'line', String(line), ...(serial ? ['21', serial] : [])];
	return `${BASE}/${path.map(encodeURIComponent).join('/')}`;
}

/** The card that a GS1 code is, or null: by its element 91. */
export function cardOf(elements: readonly Element[]): Card | null {
	const said = elements.find((e) => e.ai === AI)?.value;
	const read = said?.startsWith(MARK) ? /^(.{1,60})\/(\d{1,5})$/.exec(said.slice(MARK.length)) : null;
	if (!read) return null;
	return { order: read[1], line: Number(read[2]), serial: elements.find((e) => e.ai === '21')?.value ?? null };
}

/** Reads a card's address. @returns null when the text is none */
export function cardLink(text: string): Card | null {
	if (!text.startsWith(`${BASE}/`)) return null;
	let parts: string[];
	try {
		parts = text
			.slice(BASE.length + 1)
			.split('/')
			.map(decodeURIComponent);
	} catch {
		return null;
	}
	const [order, code, line, no, ai, serial] = parts;
	const whole = parts.length === 4 || (parts.length === 6 && ai === '21' && serial);
	if (order !== 'order' || line !== 'line' || !code || !/^\d{1,5}$/.test(no ?? '') || !whole) return null;
	return { order: code, line: Number(no), serial: serial ?? null };
}
