import { parseDay, showDay } from '../dates/dates.ts';
import { less, show, type Qty } from '../quantity/quantity.ts';
import { isPlain, unreadable, written } from '../quantity/sign.ts';
import type { How } from '../marking/rule.ts';
import type { Strength } from '../checks/check.ts';

/** What the value of a fact can be. */
export const FACT_KINDS = ['text', 'number', 'date', 'choice', 'file'] as const;
/** One of them. */
export type FactKind = (typeof FACT_KINDS)[number];

/** Something that the firm wants to know of a lot or serial besides its numbers and dates. */
export interface Fact {
	/** stands for it in the ledger, in tables and for programs */
	code: string;
	name: string;
	kind: FactKind;
	/** of a number */
	unit: string | null;
	decimals: number;
	low: Qty | null;
	high: Qty | null;
	/** what can be chosen */
	choices: string[];
	/** what a value outside its limits means */
	outside: Strength;
	/** kept with the lot, where there is one, or with each piece */
	per: 'lot' | 'piece';
}
/** A fact as one step of an item's rule asks it. */
export interface AskedFact extends Fact {
	how: Exclude<How, 'not asked'>;
}
/** Values by the fact's code; numbers as decimal text, dates as YYYY-MM-DD, a file as its SHA-256, a blank, its name. */
export type Facts = Record<string, string>;

const signed = (q: Qty) => (q.startsWith('-') ? '−' + show(q.slice(1)) : show(q));
/** "2 to 8 °C", "at most 0.5 %"; empty without limits. */
export function limitsOf(fact: Pick<Fact, 'low' | 'high' | 'unit'>): string {
	const unit = fact.unit ? ` ${fact.unit}` : '';
	if (fact.low !== null && fact.high !== null) return `${signed(fact.low)} to ${signed(fact.high)}${unit}`;
	if (fact.high !== null) return `at most ${signed(fact.high)}${unit}`;
	return fact.low !== null ? `at least ${signed(fact.low)}${unit}` : '';
}

/**
 * Reads a value as typed.
 * @returns the value as it is kept, and, when a number lies outside its limits, a sentence that says so; or what is
 * wrong with it, and how to type it
 */
export function readFact(fact: Fact, typed: string): { value: string; outside?: string } | { problem: string } {
	const t = typed.trim();
	const bad = (why: string) => ({ problem: `${fact.name}: ${why}` });
	if (!t) return bad('nothing is typed.');
	switch (fact.kind) {
		case 'number': {
			const plain = t.replace(/^−/u, '-');
			if (!isPlain(plain)) return bad(unreadable(t, 'a number'));
			const [whole, places = ''] = plain.replace('-', '').split('.');
			if (whole.length > 12) return bad(`${t.slice(0, 20)} is more than can be kept.`);
			const kept = places.replace(/0+$/, '');
			if (kept.length > fact.decimals)
				return bad(
					`${written(t)} has ${kept.length} decimals; ${fact.decimals ? `at most ${fact.decimals} are kept` : 'whole numbers are kept'}.`
				);
			const size = (whole.replace(/^0+(?=\d)/, '') || '0') + (kept ? '.' + kept : '');
			const value = plain.startsWith('-') && size !== '0' ? '-' + size : size;
			const out = (fact.low !== null && less(value, fact.low)) || (fact.high !== null && less(fact.high, value));
			return out
				? { value, outside: `${fact.name} ${showFact(fact, value)} is outside ${limitsOf(fact)}.` }
				: { value };
		}
		case 'date': {
			const r = parseDay(t);
			return 'day' in r ? { value: r.day } : bad(r.problem);
		}
		case 'choice': {
			const chosen = fact.choices.find((c) => c.toLowerCase() === t.toLowerCase());
			return chosen
				? { value: chosen }
				: bad(`“${t.slice(0, 30)}” is none of its choices: ${fact.choices.join(', ')}.`);
		}
		case 'file':
			return fileOf(t) ? { value: t } : bad('add the file with “Choose”.');
		default:
			return t.length > 200 ? bad('it has more than 200 characters. Shorten it, or keep it as a note.') : { value: t };
	}
}

/** A fact that is a file: what it is kept under, and its name. Null when the value is none. */
export function fileOf(value: string): { sha256: string; name: string } | null {
	const m = /^([0-9a-f]{64}) (.{1,200})$/su.exec(value);
	return m ? { sha256: m[1], name: m[2] } : null;
}

/** A kept value as people read it: "4.5 °C", "3 Mar 2027", "certificate.pdf". */
export function showFact(fact: Pick<Fact, 'kind' | 'unit'>, value: string): string {
	if (fact.kind === 'number') return signed(value) + (fact.unit ? ` ${fact.unit}` : '');
	if (fact.kind === 'date') return /^\d{4}-\d\d-\d\d$/.test(value) ? showDay(value) : value;
	if (fact.kind === 'file') return fileOf(value)?.name ?? value;
	return value;
}

/** What to do about a value outside its limits. */
const WAY_OUT: Record<Strength, string> = {
	stop: ' Put it aside, or measure again.',
	reason: ' Say why it is taken.',
	note: ''
};
/** What is wrong with one fact, and how strongly it is taken. */
export interface FactFinding {
	level: Strength;
	message: string;
	/** it is only not typed yet */
	open?: true;
}
/**
 * What is wrong with the facts of one lot or serial at one step.
 * @param known what is recorded of it already: not asked again, and held to the limits once more where the step asks it
 * @param beside what is said of it beside this, in the same act: not asked again
 * @returns the values as they are kept, and what was found about them
 */
export function checkFacts(
	asked: readonly AskedFact[],
	typed: Facts,
	known: Facts = {},
	beside: Facts = {}
): { values: Facts; findings: FactFinding[] } {
	const values: Facts = {};
	const findings: FactFinding[] = [];
	const tellOutside = (fact: AskedFact, outside: string) =>
		findings.push({ level: fact.outside, message: outside + WAY_OUT[fact.outside] });
	for (const fact of asked) {
		const given = typed[fact.code]?.trim();
		if (!given) {
			if (known[fact.code]) {
				// It may have been taken with a reason elsewhere, or the limits are others now: here it counts again.
				const read = readFact(fact, known[fact.code]);
				if ('value' in read && read.outside) tellOutside(fact, read.outside);
				continue;
			}
			if (beside[fact.code]) continue;
			findings.push(
				fact.how === 'required'
					? {
							level: 'stop',
							open: true,
							message: `${fact.name} is missing. ${fact.kind === 'file' ? 'Choose the file.' : 'Type it in.'}`
						}
					: { level: 'reason', open: true, message: `${fact.name} is not given. Enter it, or say why there is none.` }
			);
			continue;
		}
		const read = readFact(fact, given);
		if ('problem' in read) {
			findings.push({ level: 'stop', message: read.problem });
			continue;
		}
		values[fact.code] = read.value;
		if (read.outside) tellOutside(fact, read.outside);
		if (known[fact.code] && known[fact.code] !== read.value)
			findings.push({
				level: 'note',
				message: `${fact.name} was ${showFact(fact, known[fact.code])}; this replaces it, and both stay in its history.`
			});
	}
	return { values, findings };
}
