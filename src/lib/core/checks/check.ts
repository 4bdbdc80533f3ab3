import type { Line } from '../ledger/line.ts';
import type { Fault } from '../problem/problem.ts';
import { ranged } from '../ranges/ranges.ts';

/**
 * How strongly something stands in the way. stop: cannot be booked. reason: can be, with one line of why.
 * missing: stays open if booked now. note: shown, needs nothing.
 */
export type Level = 'stop' | 'reason' | 'missing' | 'note';
/** What a firm may set for the checks that are a matter of its policy. */
export type Strength = 'stop' | 'reason' | 'note';

/** What a check speaks of: one number, or several of which the same is to be said. */
export interface Subject {
	/** "Serial PW-0042", "Serials PW-0001 … PW-0003", "Lot A", "Stock of SALT without a number" */
	text: string;
	many: boolean;
	/** "is" or "are" */
	is: string;
	/** "was" or "were" */
	was: string;
	/** "" or "s", for a verb */
	s: string;
}
/** What a finding is about. */
export interface About {
	kind: 'lot' | 'serial' | 'unmarked';
	/** the number; of stock without one its item's code */
	number: string;
}

/** The number that a movement is about, as the checks name it. */
export const aboutOf = (l: Pick<Line, 'mark' | 'item'>): About =>
	l.mark.kind === 'serial'
		? { kind: 'serial', number: l.mark.serial_no! }
		: l.mark.kind === 'lot'
			? { kind: 'lot', number: l.mark.lot_no! }
			: { kind: 'unmarked', number: l.item.code };

/** A check there is: its code, its level, what it says. */
export interface Check<A> {
	code: string;
	/** null where the one who finds it says how strong it is: the item's, the fact's or the rule's matter */
	level: Level | null;
	/** when it speaks, in Setup's words, where the firm may set its level */
	policy: string | null;
	say: (subject: Subject, args: A, level: Level, numbers: readonly About[]) => string;
}

/** Something a check found. */
export interface Finding {
	code: string;
	level: Level;
	/** the movement it is about; -1 for the event as a whole */
	line: number;
	about: About | null;
	/** findings with the same text here say the same of several numbers */
	alike: string;
	/** the sentence for one or several numbers */
	say: (numbers: readonly About[]) => string;
	/** id of a lot or serial to open */
	mark?: string;
	/** a lot that could be taken instead */
	use?: string;
	/** nothing is wrong: it is only not typed yet */
	open?: true;
}

/** The subject of a sentence about some numbers. */
export function subjectOf(about: readonly About[]): Subject {
	const numbers = [...new Set(about.map((a) => a.number))];
	const many = numbers.length > 1;
	const [first] = about;
	const name = !first
		? ''
		: first.kind === 'unmarked'
			? `Stock of ${numbers.join(', ')} without a number`
			: `${first.kind === 'serial' ? 'Serial' : 'Lot'}${many ? 's' : ''} ${ranged(numbers)}`;
	return { text: name, many, is: many ? 'are' : 'is', was: many ? 'were' : 'was', s: many ? '' : 's' };
}

/** Makes a finding of a check. */
export function found<A>(
	check: Check<A>,
	args: A,
	where: { line: number; about: About | null; level?: Level; mark?: string; use?: string; open?: boolean }
): Finding {
	const level = where.level ?? check.level ?? 'stop';
	return {
		code: check.code,
		level,
		line: where.line,
		about: where.about,
		alike: `${check.code} ${level} ${JSON.stringify(args)}`,
		say: (numbers) => check.say(subjectOf(numbers), args, level, numbers),
		...(where.mark ? { mark: where.mark } : {}),
		...(where.use ? { use: where.use } : {}),
		...(where.open ? { open: true as const } : {})
	};
}

/** The sentence of one finding by itself. */
export const sentence = (f: Finding): string => f.say(f.about ? [f.about] : []);

/** Findings that say the same together: each with all whom it is about. Their order stays. */
export function together(list: readonly Finding[]): { first: Finding; all: Finding[]; message: string }[] {
	const groups = new Map<string, Finding[]>();
	for (const f of list) {
		const key = `${f.about?.kind ?? ''} ${f.alike}`;
		const group = groups.get(key);
		if (group) group.push(f);
		else groups.set(key, [f]);
	}
	return [...groups.values()].map((all) => ({
		first: all[0],
		all,
		message: all[0].say(all.flatMap((f) => f.about ?? []))
	}));
}

/** A check's refusal of something that is no number: as a fault, at a field or a line. */
export const faultFrom = <A>(check: Check<A>, args: A, at: string): Fault => ({
	message: check.say(subjectOf([]), args, check.level ?? 'stop', []),
	at,
	code: check.code,
	level: 'stop'
});
