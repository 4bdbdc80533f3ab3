import { luhn, mod11_2, mod37_36, mod97_10 } from '../codes/check.ts';
import { isoWeek, type Day } from '../dates/dates.ts';

/** When a sequence begins again. */
export type Reset = 'never' | 'year' | 'month' | 'week' | 'day';
/** One piece of a number pattern. */
export type Block =
	| { kind: 'text'; text: string }
	| { kind: 'year'; digits: 2 | 4 }
	| { kind: 'month' }
	| { kind: 'day' }
	| { kind: 'week' }
	| { kind: 'year day' }
	| { kind: 'item' }
	| { kind: 'site' }
	| { kind: 'line' }
	| { kind: 'sequence'; digits: number; reset: Reset }
	| { kind: 'check'; method: CheckMethod };
/** ISO/IEC 7064's, and Luhn's. MOD 97-10 gives two digits, the others one sign. */
export const CHECK_METHODS = ['MOD 37,36', 'MOD 11-2', 'MOD 97-10', 'Luhn'] as const;
/** One of them. */
export type CheckMethod = (typeof CHECK_METHODS)[number];
const signs = (method: CheckMethod) => (method === 'MOD 97-10' ? 2 : 1);
/** What the blocks of a pattern are filled from. */
export interface Context {
	day: Day;
	item: string;
	/** the site and the bin or line within it, from the place where the goods go */
	site: string;
	line: string;
}

const sequenceOf = (blocks: Block[]) =>
	blocks.find((b) => b.kind === 'sequence') as Extract<Block, { kind: 'sequence' }>;

/** A year beside a week is the week's own: 1 January 2027 lies in week 53 of 2026 (ISO 8601). */
function valueOf(b: Block, blocks: Block[], c: Context): string | null {
	const [y, m, d] = c.day.split('-');
	switch (b.kind) {
		case 'text':
			return b.text;
		case 'year': {
			const year = blocks.some((x) => x.kind === 'week') ? String(isoWeek(c.day).year) : y;
			return year.slice(4 - b.digits);
		}
		case 'month':
			return m;
		case 'day':
			return d;
		case 'week':
			return String(isoWeek(c.day).week).padStart(2, '0');
		case 'year day':
			return String((Date.parse(c.day) - Date.parse(`${y}-01-01`)) / 86_400_000 + 1).padStart(3, '0');
		case 'item':
			return c.item;
		case 'site':
			return c.site;
		case 'line':
			return c.line;
		default:
			return null;
	}
}

/**
 * The number with this sequence value.
 * @throws RangeError when the sequence has run out, or a check character cannot be worked out
 */
export function render(blocks: Block[], c: Context, sequence: number): string {
	let text = '';
	for (const b of blocks) {
		if (b.kind === 'sequence') {
			if (sequence > capacity(blocks))
				throw new RangeError(`The ${b.digits} digits of the sequence are used up. Give the pattern more digits.`);
			text += String(sequence).padStart(b.digits, '0');
		} else if (b.kind === 'check') {
			const sign = checkCharacter(b.method, text);
			if (sign === null) throw new RangeError('No check character can be worked out for these signs.');
			text += sign;
		} else text += valueOf(b, blocks, c);
	}
	return text;
}
/** Over the letters and digits that stand before it; dashes and the like do not count, small letters count as capitals. */
function checkCharacter(method: CheckMethod, before: string): string | null {
	const digits = before.replace(/\D/g, '');
	const letters = before.toUpperCase().replace(/[^0-9A-Z]/g, '');
	if (method === 'Luhn') return luhn(digits);
	if (method === 'MOD 11-2') return mod11_2(digits);
	return method === 'MOD 97-10' ? mod97_10(letters) : mod37_36(letters);
}

/** Numbers from one counter: how many its digits hold. */
export const capacity = (blocks: Block[]): number => 10 ** sequenceOf(blocks).digits - 1;

/** Which counter a number is drawn from: the period that the sequence starts again with, and what else tells it apart. */
export function scope(blocks: Block[], c: Context): string {
	const { reset } = sequenceOf(blocks);
	const [y, m, d] = c.day.split('-');
	const week = isoWeek(c.day);
	const period = {
		never: '',
		year: blocks.some((b) => b.kind === 'week') ? String(week.year) : y,
		month: `${y}-${m}`,
		week: `${week.year}-W${week.week}`,
		day: `${y}-${m}-${d}`
	}[reset];
	const apart = blocks.flatMap((b) =>
		b.kind === 'item' || b.kind === 'site' || b.kind === 'line' ? [valueOf(b, blocks, c)!] : []
	);
	return [period, ...apart].join(' ').trim();
}

/** What is wrong with a pattern, in words; empty when nothing is. */
export function faultsOf(blocks: Block[]): string[] {
	const faults: string[] = [];
	const has = (kind: Block['kind']) => blocks.some((b) => b.kind === kind);
	const sequences = blocks.filter((b) => b.kind === 'sequence');
	if (sequences.length !== 1) return ['A pattern needs exactly one sequence: it is what tells two numbers apart.'];
	const { reset, digits } = sequences[0] as Extract<Block, { kind: 'sequence' }>;
	if (digits < 1 || digits > 12) faults.push('A sequence has 1 to 12 digits.');
	const day = has('year') && (has('year day') || (has('month') && has('day')));
	const said = {
		never: true,
		year: has('year'),
		month: day || (has('year') && has('month')),
		week: day || (has('year') && has('week')),
		day
	}[reset];
	if (!said)
		faults.push(
			`The sequence starts again each ${reset}, but nothing in the number says which ${reset}: numbers would repeat. Add it, or let the sequence run on.`
		);
	for (const b of blocks)
		if (b.kind === 'text' && !/^[!"%&'()*+,\-./0-9:;<=>?A-Z_a-z]{1,20}$/.test(b.text))
			faults.push(`The text “${b.text}” needs 1 to 20 letters, digits or plain signs, without blanks.`);
	const twice = blocks.find((b, i) => b.kind !== 'text' && blocks.findIndex((x) => x.kind === b.kind) < i);
	if (twice) faults.push(`The ${twice.kind} stands twice. Remove one.`);
	const check = blocks.findIndex((b) => b.kind === 'check');
	if (check >= 0 && check !== blocks.length - 1)
		faults.push('The check character comes last: it covers what stands before it.');
	if (has('week') && (has('month') || has('day')))
		faults.push('Take either the week or the month and day: beside a week, the year is the week’s own.');
	const longest = blocks.reduce((n, b) => n + width(b), 0);
	if (longest > 20)
		faults.push(`Numbers may get ${longest} characters long; a GS1 code holds 20. Make the pattern shorter.`);
	return faults;
}
const width = (b: Block) =>
	b.kind === 'text'
		? b.text.length
		: b.kind === 'check'
			? signs(b.method)
			: b.kind === 'sequence' || b.kind === 'year'
				? b.digits
				: { month: 2, day: 2, week: 2, 'year day': 3, item: 6, site: 2, line: 5 }[b.kind];

/** What a number says when it is read back by its pattern. */
export interface Reading {
	year?: number;
	month?: number;
	day?: number;
	week?: number;
	yearDay?: number;
	item?: string;
	site?: string;
	line?: string;
	sequence: number;
}
const escape = (t: string) => t.replace(/[.*+?^${}()|[\]\\/-]/g, '\\$&');
const shape = (b: Block): string =>
	({
		text: () => escape((b as { text: string }).text),
		year: () => `(?<year>\\d{${(b as { digits: number }).digits}})`,
		month: () => '(?<month>0[1-9]|1[0-2])',
		day: () => '(?<day>0[1-9]|[12]\\d|3[01])',
		week: () => '(?<week>0[1-9]|[1-4]\\d|5[0-3])',
		'year day': () => '(?<yearDay>[0-3]\\d\\d)',
		item: () => '(?<item>.+?)',
		site: () => '(?<site>[A-Za-z0-9._-]+?)',
		line: () => '(?<line>[A-Za-z0-9._-]+?)',
		sequence: () => `(?<sequence>\\d{${(b as { digits: number }).digits}})`,
		check: () => `(?<check>[0-9A-Z]{${signs((b as { method: CheckMethod }).method)}})`
	})[b.kind]();

/** The form of a pattern's numbers: for whoever reads many of them back. */
export const formOf = (blocks: Block[]): RegExp => new RegExp(`^${blocks.map(shape).join('')}$`);
/** Reads a number back by its pattern. @returns what its blocks say, or in what the number does not fit */
export function readBack(blocks: Block[], number: string, form = formOf(blocks)): Reading | { problem: string } {
	const found = form.exec(number);
	if (!found) return { problem: misfit(blocks, number) };
	const g = found.groups!;
	const check = blocks.find((b) => b.kind === 'check');
	if (check && checkCharacter(check.method, number.slice(0, -signs(check.method))) !== g.check)
		return { problem: `${number} has a wrong check character. Type or scan it again.` };
	const int = (t: string | undefined) => (t === undefined ? undefined : Number(t));
	const year = int(g.year);
	const read: Reading = {
		year: year !== undefined && year < 100 ? 2000 + year : year,
		month: int(g.month),
		day: int(g.day),
		week: int(g.week),
		yearDay: int(g.yearDay),
		item: g.item,
		site: g.site,
		line: g.line,
		sequence: Number(g.sequence)
	};
	for (const k of Object.keys(read) as (keyof Reading)[]) if (read[k] === undefined) delete read[k];
	return read;
}
function misfit(blocks: Block[], number: string): string {
	const open = blocks.some((b) => ['item', 'site', 'line'].includes(b.kind));
	const length = blocks.reduce((n, b) => n + width(b), 0);
	if (!open && number.length !== length)
		return `${number} has ${number.length} characters; numbers of this pattern have ${length}, like ${example(blocks)}.`;
	return `${number} does not fit the pattern; numbers look like ${example(blocks)}.`;
}
/** How a number of this pattern looks. */
export const example = (blocks: Block[]): string => {
	try {
		return render(blocks, { day: new Date().toISOString().slice(0, 10), item: 'ITEM', site: 'QS', line: 'LINE1' }, 1);
	} catch {
		return '–';
	}
};

/** What a number says, in words: "made in week 14 of 2027, line LINE2, number 37". */
export function inWords(r: Reading): string {
	const months = [
		'January',
		'February',
		'March',
		'April',
		'May',
		'June',
		'July',
		'August',
		'September',
		'October',
		'November',
		'December'
	];
	const when = r.week
		? `in week ${r.week}`
		: r.yearDay
			? `on day ${r.yearDay}`
			: r.day && r.month
				? `on ${r.day} ${months[r.month - 1]}`
				: r.month
					? `in ${months[r.month - 1]}`
					: '';
	const made = [when, r.year ? (when ? (r.day && r.month ? String(r.year) : `of ${r.year}`) : `in ${r.year}`) : '']
		.filter(Boolean)
		.join(' ');
	return [
		made && `drawn ${made}`,
		r.item && `for ${r.item}`,
		r.site && `at ${r.site}`,
		r.line && `line ${r.line}`,
		`number ${r.sequence}`
	]
		.filter(Boolean)
		.join(', ');
}
