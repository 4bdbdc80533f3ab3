import { gs1Valid, gtin14 } from './check.ts';

/** FNC1 as scanners send it between elements. */
export const GS = '\x1d';

/** One element: an application identifier and what it says. */
export interface Element {
	ai: string;
	value: string;
}
interface Rule {
	/** exact length of the value, or the most it may be */
	length: number;
	fixed: boolean;
	digits: boolean;
	/** how many of its first characters end in a check digit */
	checked?: number;
}
const n = (length: number, checked?: number): Rule => ({ length, fixed: true, digits: true, checked });
const upToN = (length: number): Rule => ({ length, fixed: false, digits: true });
const upToX = (length: number): Rule => ({ length, fixed: false, digits: false });

/** Application identifiers (GS1 General Specifications, section 3): those that a label in goods receipt may carry. */
const RULES: Record<string, Rule> = {
	'00': n(18, 18),
	'01': n(14, 14),
	'02': n(14, 14),
	'10': upToX(20),
	'11': n(6),
	'12': n(6),
	'13': n(6),
	'15': n(6),
	'16': n(6),
	'17': n(6),
	'20': n(2),
	'21': upToX(20),
	'22': upToX(20),
	'30': upToN(8),
	'37': upToN(8),
	'240': upToX(30),
	'241': upToX(30),
	'242': upToN(6),
	'243': upToX(20),
	'250': upToX(30),
	'251': upToX(30),
	'254': upToX(20),
	'400': upToX(30),
	'401': upToX(30),
	'402': n(17, 17),
	'403': upToX(30),
	'420': upToX(20),
	'7003': n(10),
	'8003': upToX(30),
	'8004': upToX(30),
	'8005': n(6),
	'8006': n(18),
	'8008': upToN(12),
	'90': upToX(30)
};
for (let i = 91; i <= 99; i++) RULES[i] = upToX(90);
for (let i = 410; i <= 417; i++) RULES[i] = n(13, 13);
/** Measures with a decimal point: 310n to 316n and 320n to 369n; the fourth digit says how many decimals. */
const measure = /^3(1[0-6]|2\d|3[0-7]|4\d|5\d|6\d)[0-5]$/;

const ruleOf = (ai: string): Rule | undefined => RULES[ai] ?? (measure.test(ai) ? n(6) : undefined);
/** Identifiers whose element needs no FNC1 behind it, by their first two digits (General Specifications, 7.8.5). */
const closed = /^(0[0-4]|1[1-9]|20|3[1-6]|41)/;
/** What a value may hold: the 82 signs of ISO/IEC 646 that GS1 allows (7.11). */
const SIGN82 = /^[!"%&'()*+,\-./0-9:;<=>?A-Z_a-z]*$/;

function check(ai: string, value: string): string | null {
	const rule = ruleOf(ai)!;
	if (rule.fixed ? value.length !== rule.length : !value || value.length > rule.length)
		return `(${ai}) holds ${value.length} characters; it takes ${rule.fixed ? rule.length : `1 to ${rule.length}`}.`;
	if (rule.digits ? !/^\d+$/.test(value) : !SIGN82.test(value))
		return `(${ai}) holds “${value}”; it takes ${rule.digits ? 'digits only' : 'no such signs'}.`;
	if (rule.checked && !gs1Valid(value.slice(0, rule.checked)))
		return `(${ai}) ${value}: its check digit is wrong. Scan it again.`;
	return null;
}

/**
 * Reads a GS1 element string as a scanner sends it: with or without a symbology identifier (]C1, ]d2, ]Q3, ]e0, ]J1)
 * and a leading FNC1, elements apart by FNC1 where needed; or as printed, with identifiers in brackets.
 * @returns the elements in their order, or what is wrong with the text
 */
export function parseElements(text: string): { elements: Element[] } | { problem: string } {
	let rest = text.replace(/^\](C1|d2|Q3|e\d|J1)/, '');
	while (rest.startsWith(GS)) rest = rest.slice(1);
	const elements: Element[] = [];
	const take = (ai: string, value: string) => {
		const problem = check(ai, value);
		if (!problem) elements.push({ ai, value });
		return problem;
	};
	if (rest.startsWith('(')) {
		const parts = [...rest.matchAll(/\((\d{2,4})\)((?:(?!\(\d{2,4}\)).)*)/gs)];
		if (parts.map((p) => p[0]).join('') !== rest) return { problem: 'This is not a GS1 code as printed.' };
		for (const [, ai, value] of parts) {
			if (!ruleOf(ai)) return { problem: `Earmark does not know the application identifier (${ai}).` };
			const problem = take(ai, value);
			if (problem) return { problem };
		}
		return elements.length ? { elements } : { problem: 'The code is empty.' };
	}
	while (rest) {
		const ai = [2, 3, 4].map((l) => rest.slice(0, l)).find((a) => ruleOf(a));
		if (!ai) return { problem: `Earmark does not know the application identifier at “${rest.slice(0, 4)}”.` };
		rest = rest.slice(ai.length);
		const rule = ruleOf(ai)!;
		const end = rest.indexOf(GS);
		const until = closed.test(ai) ? rule.length : end < 0 ? rest.length : end;
		const problem = take(ai, rest.slice(0, until));
		if (problem) return { problem };
		rest = rest.slice(until);
		if (rest.startsWith(GS)) rest = rest.slice(1);
	}
	return elements.length ? { elements } : { problem: 'The code is empty.' };
}

/**
 * Writes an element string: elements of predefined length need nothing behind them, others are closed by FNC1 unless
 * they are last.
 * @throws RangeError naming the element that cannot be written
 */
export function buildElements(elements: Element[]): string {
	return elements
		.map(({ ai, value }, i) => {
			const problem = ruleOf(ai) ? check(ai, value) : `There is no application identifier (${ai}).`;
			if (problem) throw new RangeError(problem);
			return ai + value + (closed.test(ai) || i === elements.length - 1 ? '' : GS);
		})
		.join('');
}
/** As printed beneath a code, and as a drawing library takes it: (01)09506000134352(10)ABC. */
export const bracketed = (elements: Element[]): string => elements.map((e) => `(${e.ai})${e.value}`).join('');

/**
 * A six-digit date. The century is the one that puts the year from 49 years back to 50 years ahead of this year
 * (General Specifications, 7.12); day 00 means the last day of the month, for a date of making the first.
 * @param year this year, for the sliding window
 * @returns YYYY-MM-DD, or null when there is no such day
 */
export function readDate(yymmdd: string, year: number, first = false): string | null {
	const [yy, mm, dd] = [yymmdd.slice(0, 2), yymmdd.slice(2, 4), yymmdd.slice(4, 6)].map(Number);
	if (mm < 1 || mm > 12) return null;
	const gap = yy - (year % 100);
	const century = Math.floor(year / 100) + (gap >= 51 ? -1 : gap <= -50 ? 1 : 0);
	const y = century * 100 + yy;
	const last = new Date(Date.UTC(y, mm, 0)).getUTCDate();
	const d = dd || (first ? 1 : last);
	return d > last ? null : `${y}-${String(mm).padStart(2, '0')}-${String(d).padStart(2, '0')}`;
}
/** A day as the six digits of a code. */
export const writeDate = (day: string): string => day.slice(2).replaceAll('-', '');

// Digital Link --------------------------------------------------------------------------------

/** Keys that may stand first in the path, and what may qualify them, in this order (GS1 Digital Link: URI Syntax). */
const QUALIFIERS: Record<string, string[]> = {
	'01': ['22', '10', '21'],
	'00': [],
	'8004': [],
	'8006': ['22', '10', '21'],
	'414': ['254']
};

/** Reads a GS1 Digital Link URI: the key and its qualifiers in the path, other elements as query. */
export function parseLink(uri: string): { elements: Element[] } | { problem: string } {
	let url: URL;
	try {
		url = new URL(uri);
	} catch {
		return { problem: 'This is not a link.' };
	}
	if (!/^https?:$/.test(url.protocol)) return { problem: 'This is not a web link.' };
	let parts: string[];
	try {
		// Not url.pathname, which takes a lot called "." for a step in the path.
		parts = /^[^:]+:\/\/[^/?#]*([^?#]*)/.exec(uri)![1].split('/').slice(1).map(decodeURIComponent);
	} catch {
		return { problem: 'The link holds signs that cannot be read.' };
	}
	const at = parts.findIndex((p, i) => QUALIFIERS[p] && (parts.length - i) % 2 === 0);
	if (at < 0) return { problem: 'The link names no item: it is not a GS1 Digital Link.' };
	const elements: Element[] = [];
	const take = (ai: string, value: string) => {
		const padded = ai === '01' ? (gtin14(value) ?? value) : value;
		const problem = check(ai, padded);
		if (!problem) elements.push({ ai, value: padded });
		return problem;
	};
	for (let i = at; i < parts.length; i += 2) {
		if (i > at && !QUALIFIERS[parts[at]].includes(parts[i]))
			return { problem: `The link says “${parts[i]}” where no such part belongs.` };
		const problem = take(parts[i], parts[i + 1]);
		if (problem) return { problem };
	}
	for (const [ai, value] of url.searchParams) {
		if (!ruleOf(ai)) continue; // a link may carry anything else
		const problem = take(ai, value);
		if (problem) return { problem };
	}
	return { elements };
}

/**
 * Writes a GS1 Digital Link URI.
 * @param base where the link leads, such as https://id.gs1.org
 * @throws RangeError when no element is a key
 */
export function buildLink(base: string, elements: Element[]): string {
	const key = elements.find((e) => QUALIFIERS[e.ai]);
	if (!key) throw new RangeError('A link needs an item, a pallet or a place first.');
	const path = [key, ...QUALIFIERS[key.ai].flatMap((ai) => elements.find((e) => e.ai === ai) ?? [])];
	const query = elements.filter((e) => !path.includes(e)).map((e) => `${e.ai}=${encodeURIComponent(e.value)}`);
	return (
		base.replace(/\/$/, '') +
		path.map((e) => `/${e.ai}/${encodeURIComponent(e.value)}`).join('') +
		(query.length ? '?' + query.join('&') : '')
	);
}
