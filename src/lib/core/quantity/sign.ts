/*
 * How the firm writes numbers. There is one firm to a server and to a page, so its sign is held here, as a program holds
 * its locale, and not handed through every sentence that says a quantity. What is kept, and what programs send and get,
 * is always written with a point and never grouped.
 */

/** What stands before decimals where people read and type. */
export const DECIMAL_SIGNS = ['.', ','] as const;
/** One of them. */
export type DecimalSign = (typeof DECIMAL_SIGNS)[number];
let sign: DecimalSign = '.';
/** The firm's sign. */
export const decimalSign = (): DecimalSign => sign;
/** Takes the firm's sign, as the server read it. */
export const useDecimalSign = (firms: DecimalSign): void => void (sign = firms);
const other = () => (sign === '.' ? ',' : '.');

/** A decimal number as it is kept: "1250.5", "-3". */
const PLAIN = /^-?\d+(\.\d+)?$/;
/** Whether a text is a decimal number as it is kept. */
export const isPlain = (text: string): boolean => PLAIN.test(text);

/** A kept number for people, its thousands grouped: "1,250.5", or "1.250,5" where decimals come after a comma. */
export function grouped(n: number | string): string {
	const [whole, places] = String(n).split('.');
	const groups = whole.replace(/\B(?=(\d{3})+(?!\d))/g, other());
	return places ? groups + sign + places : groups;
}

/** A kept number as it stands in a field, without groups; any other text as it is. */
export const written = (text: string): string => (PLAIN.test(text) ? text.replace('.', sign) : text);

/**
 * What somebody typed, as it is kept. Decimals come after the firm's sign; thousands may be grouped by blanks, or by the
 * other sign where that can mean nothing else. A single group ("1,250") could be decimals of somebody who writes them
 * so: that is read only where there are no decimals.
 * @param decimals how many the number may have; unknown when left out
 * @returns the number as it is kept; or the text, so that it is refused when it is read, and stands there until it is
 * mended. A question mark is put to one that would be read as another number than may be meant.
 */
export function typedNumber(typed: string, decimals?: number, by: DecimalSign = sign): string {
	const text = typed.trim();
	const t = text.replace(/^[−–]/u, '-').replace(new RegExp(`^(-?)(?=[${by}]\\d)`), '$10');
	const m = new RegExp(`^(-?)(\\d+|\\d{1,3}(?:(\\s|[.,])\\d{3})(?:\\3\\d{3})*)(?:[${by}](\\d+))?$`, 'u').exec(t);
	const between = m?.[3];
	const once = between && m[2].split(between).length === 2 && m[4] === undefined;
	const blank = between !== undefined && /\s/u.test(between);
	if (m && between !== by && (!between || blank || !once || decimals === 0) && !(between && m[2].startsWith('0')))
		return m[1] + m[2].replace(/\D/g, '') + (m[4] === undefined ? '' : '.' + m[4]);
	return PLAIN.test(text) ? text + '?' : text;
}

/**
 * Why a text is no number, and how to type it.
 * @param text what `typedNumber` left as it was, or what a program sent
 * @param what what it should be: "a quantity"
 */
export function unreadable(text: string, what: string): string {
	const marked = text.trim().endsWith('?');
	const t = text.trim().replace(/\?$/, '');
	const said = `“${t.length > 20 ? t.slice(0, 20) + '…' : t}”`;
	// A person's number that can be read was read where it was typed: this one comes from a program.
	const meant = typedNumber(t);
	if (!marked && isPlain(meant))
		return `${said} is not ${what} as programs write it: ${meant}, with a point and no groups.`;
	const twoWays = /^-?[1-9]\d{0,2}[.,]\d{3}$/.test(t);
	const [whole, places] = t.split(/[.,]/);
	if (twoWays)
		return `${said} can be read as ${whole + places} or as ${whole + sign + places}. Type it without a sign between thousands.`;
	const point = sign === '.' ? 'point' : 'comma';
	if (/^-?\d+[.,]\d+$/.test(t)) return `${said}: decimals come after a ${point} here. Type ${whole + sign + places}.`;
	return `${said} is not ${what}. Type digits, with a ${point} before decimals: ${written('12.5')}.`;
}

/** A share as people read it: 92 %, 85.7 %. */
export const sayPercent = (share: number): string => `${written(String(Math.round(share * 1000) / 10))} %`;
