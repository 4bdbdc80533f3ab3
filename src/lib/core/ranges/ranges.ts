import { grouped } from '../quantity/sign.ts';
/** Consecutive numbers shown as one: PW-0001 … PW-0050 · 50. */
export interface Range {
	first: string;
	last: string;
	count: number;
}

/** The most numbers of one document, and so of one range or typed run. */
export const MOST = 20_000;

/**
 * Splits a number at its last group of digits: "PW-0098b" → PW-, 0098, b. Null when it has no digit.
 */
export function split(number: string): { head: string; digits: string; tail: string } | null {
	const m = /^(.*?)(\d+)(\D*)$/su.exec(number);
	return m ? { head: m[1], digits: m[2], tail: m[3] } : null;
}

/**
 * The number `steps` after this one, keeping leading zeros and trailing letters: A9 → A10, A099 → A100,
 * PW-9999 → PW-10000. Null when it has no digit to count with.
 */
export function next(number: string, steps = 1): string | null {
	const s = split(number);
	if (!s) return null;
	const value = BigInt(s.digits) + BigInt(steps);
	return s.head + value.toString().padStart(s.digits.length, '0') + s.tail;
}

/** The numbers that this one is the next of: A10 follows A9, and A09 too. None before the first. */
export function before(number: string): string[] {
	const s = split(number);
	if (!s || !/[1-9]/.test(s.digits)) return [];
	const value = (BigInt(s.digits) - 1n).toString();
	const all = [value.padStart(s.digits.length, '0'), value].map((digits) => s.head + digits + s.tail);
	return [...new Set(all)].filter((n) => next(n) === number);
}

/** The widest step between the numbers of a run. */
export const MOST_STEP = 10_000;
/**
 * A run of `count` numbers from a first one, each `step` after the one before. Throws RangeError when the count is not
 * 1 to MOST or when there is nothing to count with.
 */
export function expand(first: string, count: number, step = 1): string[] {
	if (!Number.isInteger(count) || count < 1 || count > MOST)
		throw new RangeError(`A run holds 1 to ${grouped(MOST)} numbers.`);
	if (count === 1) return [first];
	const s = split(first);
	if (!s) throw new RangeError(`${first} has no digits to count on from. Type each number, or paste a column.`);
	const start = BigInt(s.digits);
	const numbers = new Array<string>(count);
	for (let i = 0; i < count; i++)
		numbers[i] = s.head + (start + BigInt(i * step)).toString().padStart(s.digits.length, '0') + s.tail;
	return numbers;
}

/** A number with its last digits, as it is ordered by. */
interface Ordered {
	number: string;
	head: string;
	tail: string;
	/** what the last digits say, and how many there are; null where it has none */
	value: bigint | null;
	width: number;
}
function ordered(number: string): Ordered {
	const s = split(number);
	if (!s) return { number, head: number, tail: '', value: null, width: 0 };
	return { number, head: s.head, tail: s.tail, value: BigInt(s.digits), width: s.digits.length };
}
function byOrder(a: Ordered, b: Ordered): number {
	if (a.number === b.number) return 0;
	if (a.value !== null && b.value !== null && a.head === b.head && a.tail === b.tail) {
		if (a.value !== b.value) return a.value < b.value ? -1 : 1;
		return a.width - b.width;
	}
	return natural.compare(a.number, b.number) || (a.number < b.number ? -1 : 1);
}
/** Orders numbers as people do: same text around the digits together, then by value, then by width. */
export const compare = (a: string, b: string): number => inOneRange(a, b) ?? byOrder(ordered(a), ordered(b));
/**
 * The order of two numbers that differ in nothing but digits at their ends, as mostly those of one range do; null where they
 * differ in more. It is what byOrder() says, without taking them apart.
 */
function inOneRange(a: string, b: string): number | null {
	if (a.length !== b.length) return null;
	let n = 0;
	while (n < a.length && a.charCodeAt(n) === b.charCodeAt(n)) n++;
	if (n === a.length) return 0;
	for (let k = n; k < a.length; k++) if (!isDigit(a.charCodeAt(k)) || !isDigit(b.charCodeAt(k))) return null;
	return a < b ? -1 : 1;
}
const isDigit = (code: number) => code >= 48 && code <= 57;
/** Orders texts as people do: 9 before 10. */
export const natural = new Intl.Collator('en', { numeric: true });

/**
 * The fewest ranges that hold exactly these numbers. Sorted; duplicates count once. `expand` of each gives the
 * set back.
 */
export function compress(numbers: Iterable<string>): Range[] {
	return inRanges(numbers, (n) => n).map((list) => ({
		first: list[0],
		last: list[list.length - 1],
		count: list.length
	}));
}

/** Things by ranges of their numbers, however long: each range in its order. Of several with one number the last counts. */
export function inRanges<T>(things: Iterable<T>, numberOf: (thing: T) => string): T[][] {
	const by = new Map<string, T>();
	for (const thing of things) by.set(numberOf(thing), thing);
	const ranges: T[][] = [];
	let last: string | null = null;
	// Each is taken apart once, not for each comparison.
	for (const { number } of Array.from(by.keys(), ordered).sort(byOrder)) {
		if (last !== null && next(last) === number) ranges[ranges.length - 1].push(by.get(number)!);
		else ranges.push([by.get(number)!]);
		last = number;
	}
	return ranges;
}

/** What is missing between neighbouring ranges of one series: [1…5], [8…9] → 6…7. */
export function gaps(ranges: Range[]): Range[] {
	const missing: Range[] = [];
	for (let i = 1; i < ranges.length; i++) {
		const a = split(ranges[i - 1].last);
		const b = split(ranges[i].first);
		if (!a || !b || a.head !== b.head || a.tail !== b.tail) continue;
		const between = Number(BigInt(b.digits) - BigInt(a.digits)) - 1;
		if (between < 1 || next(ranges[i - 1].last, between + 1) !== ranges[i].first) continue;
		missing.push({
			first: next(ranges[i - 1].last)!,
			last: next(ranges[i - 1].last, between)!,
			count: between
		});
	}
	return missing;
}

/** A range as people read it: "PW-0001 … PW-0050", or the one number. */
export const text = (r: Range) => (r.count === 1 ? r.first : `${r.first} … ${r.last}`);

/** A run of numbers as typed. */
export interface TypedRun {
	first: string;
	count: number;
	step?: number;
}
/** What was typed into the number field as read, or why it cannot be. */
export type Filled = { runs: TypedRun[]; count: number } | { problem: string };

/** After a comma: is it another number, rather than how many? Text with letters is, and digits as wide as the first's. */
const isNumber = (part: string, first: string) =>
	!/^\d+$/.test(part) || /^0\d/.test(part) || (/^\d+$/.test(first) && part.length >= first.length);

/**
 * What was typed into the number field: "PW-0098" (one), "PW-0098, 40" (first and count), "PW-0098, 40, 2" (with a
 * step), "PW-0098 … PW-0137", "PW-0098..PW-0137" or "PW-0098 to PW-0137" (first and last), "1001, 1002" or "VB2, VB5,
 * VB9" (several, one by one).
 */
export function parseFill(typed: string): Filled {
	const t = typed.trim();
	if (!t) return { problem: 'Type a number, or a first number and a count: PW-0098, 40.' };
	const parts = t.split(/\s*[,;]\s*/u);
	if (parts.length > 1 && parts[parts.length - 1] === '') parts.pop();
	const runs: TypedRun[] = [];
	for (let i = 0; i < parts.length;) {
		const first = parts[i++];
		const digits = (at: number) => at < parts.length && !isNumber(parts[at], first);
		const counted = digits(i);
		const count = counted ? Number(parts[i++]) : 1;
		const step = counted && digits(i) ? Number(parts[i++]) : 1;
		const run = readRun(first, count, step);
		if ('problem' in run) return run;
		const open = runs.at(-1);
		if (open && !open.step && !run.step && next(open.first, open.count) === run.first) open.count += run.count;
		else runs.push(run);
	}
	const count = runs.reduce((n, r) => n + r.count, 0);
	return count > MOST
		? { problem: `A run holds 1 to ${grouped(MOST)} numbers; this asks for ${grouped(count)}.` }
		: { runs, count };
}

function readRun(typed: string, count: number, step: number): TypedRun | { problem: string } {
	if (step < 1 || step > MOST_STEP) return { problem: `A step is 1 to ${grouped(MOST_STEP)}; this asks for ${step}.` };
	const span = /^(\S+)\s*(?:…|\.\.+|\s+to\s+)\s*(\S+)$/u.exec(typed);
	if (!span) {
		const run = checked(typed, count);
		return 'problem' in run || step === 1 || run.count === 1 ? run : { ...run, step };
	}
	const a = split(span[1]);
	const b = split(span[2]);
	if (!a || !b || a.head !== b.head || a.tail !== b.tail)
		return { problem: `${span[1]} and ${span[2]} are not of one series. Type them apart.` };
	const n = Number(BigInt(b.digits) - BigInt(a.digits)) + 1;
	if (n < 1) return { problem: `${span[2]} comes before ${span[1]}. Turn them round.` };
	if (next(span[1], n - 1) !== span[2])
		return { problem: `${span[1]} and ${span[2]} have digits of another width. Type them apart.` };
	return checked(span[1], n);
}

/** What was understood, in words: "40: PW-0098 … PW-0137", "2: 1001, 1002". */
export function filledWords(filled: { runs: readonly TypedRun[]; count: number }): string {
	const words = filled.runs.slice(0, 4).map((r) => {
		const last = next(r.first, (r.count - 1) * (r.step ?? 1)) ?? r.first;
		const steps = r.step ? ` in steps of ${r.step}` : '';
		return r.count === 1 ? r.first : r.count === 2 ? `${r.first}, ${last}` : `${r.first} … ${last}${steps}`;
	});
	const more = filled.runs.length > 4 ? ' and more' : '';
	return `${grouped(filled.count)}: ${words.join(', ')}${more}`;
}

function checked(first: string, count: number): TypedRun | { problem: string } {
	if (first.length > 60) return { problem: 'A number has at most 60 characters. Check what was pasted.' };
	if (/[\s\p{Cc}]/u.test(first)) return { problem: `“${first}” has a blank in it. Type each number apart.` };
	if (count < 1 || count > MOST)
		return {
			problem: `A run holds 1 to ${grouped(MOST)} numbers; this asks for ${count}.`
		};
	if (count > 1 && !split(first))
		return {
			problem: `${first} has no digits to count on from. Type each number, or paste a column.`
		};
	return { first, count };
}

/** The first three ranges of some numbers, and how many numbers more. */
export const ranged = (numbers: readonly string[]): string => {
	const ranges = compress(numbers);
	const said = ranges.slice(0, 3);
	const more = ranges.slice(3).reduce((n, r) => n + r.count, 0);
	return `${said.map(text).join(', ')}${more ? ` and ${grouped(more)} more` : ''}`;
};
