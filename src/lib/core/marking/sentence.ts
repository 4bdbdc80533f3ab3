import type { Enough, How, Rule } from './rule.ts';

/** "receipt, move and count" */
export const inSentence = (words: string[]) =>
	words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words[words.length - 1]}`;

/** When something is asked, in words: "required at shipment". */
function when(rules: Rule[], how: (r: Rule) => How): string {
	const at = (level: How) => rules.filter((r) => how(r) === level).map((r) => r.step);
	const [required, asked] = [at('required'), at('asked')];
	if (required.length === rules.length) return 'required at every step';
	if (!required.length && !asked.length) return 'never asked';
	return [
		...(required.length ? [`required at ${inSentence(required)}`] : []),
		...(asked.length ? [`asked at ${inSentence(asked)} (leaving it out wants a reason)`] : [])
	].join(', ');
}

/**
 * A marking rule said in words: "A lot is required at every step. A serial is required at shipment; nothing is asked
 * elsewhere. An expiry date and Certificate no. are required at receipt." Dates and facts are named only where they are
 * asked; those asked alike share a sentence.
 * @param names of the facts by their codes
 */
export function ruleSentence(
	rules: Rule[],
	numbers: readonly ('lot' | 'serial')[],
	names: Record<string, string> = {}
): string {
	const asked = (how: (r: Rule) => How) => rules.some((r) => how(r) !== 'not asked');
	const alike = new Map<string, string[]>();
	const add = (name: string, how: (r: Rule) => How) => {
		if (asked(how)) alike.set(when(rules, how), [...(alike.get(when(rules, how)) ?? []), name]);
	};
	add('an expiry date', (r) => r.expiry);
	for (const [code, name] of Object.entries(names)) add(name, (r) => r.facts[code] ?? 'not asked');
	const known = (enough: Enough) => rules.filter((r) => r.evidence === enough).map((r) => r.step);
	const demands = [
		[known('scanned'), 'must be scanned'],
		[known('entered'), 'must be scanned or typed']
	] as const;
	const cap = (t: string) => t[0].toUpperCase() + t.slice(1);
	return [
		...numbers.map((n) => {
			const says = when(rules, (r) => r[n]);
			return `A ${n} is ${says}${/^(required|asked) at (?!every)/.test(says) ? '; nothing is asked elsewhere' : ''}.`;
		}),
		...demands.flatMap(([steps, must]) =>
			steps.length ? `The number ${must} at ${steps.length === rules.length ? 'every step' : inSentence(steps)}.` : []
		),
		...[...alike].map(([says, list]) => `${cap(inSentence(list))} ${list.length > 1 ? 'are' : 'is'} ${says}.`)
	].join(' ');
}
