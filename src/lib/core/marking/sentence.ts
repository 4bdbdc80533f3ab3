import type { How, Rule } from './rule.ts';

/** "receipt, move and count" */
export const inSentence = (words: string[]) =>
	words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words[words.length - 1]}`;

/** When something is asked, in words: "required at shipment; nothing is asked elsewhere". */
function when(rules: Rule[], how: (r: Rule) => How): string {
	const at = (level: How) => rules.filter((r) => how(r) === level).map((r) => r.step);
	const [required, asked] = [at('required'), at('asked')];
	if (required.length === rules.length) return 'required at every step';
	if (!required.length && !asked.length) return 'never asked';
	const parts = [
		...(required.length ? [`required at ${inSentence(required)}`] : []),
		...(asked.length ? [`asked at ${inSentence(asked)} (leaving it out wants a reason)`] : [])
	];
	return `${parts.join(', ')}; nothing is asked elsewhere`;
}

/**
 * A marking rule said in words: "A lot is required at every step. A serial is required at shipment; nothing is asked
 * elsewhere. An expiry date is required at receipt; …". Dates and facts are named only where they are asked.
 * @param names of the facts by their codes
 */
export function ruleSentence(
	rules: Rule[],
	numbers: readonly ('lot' | 'serial')[],
	names: Record<string, string> = {}
): string {
	const asked = (how: (r: Rule) => How) => rules.some((r) => how(r) !== 'not asked');
	return [
		...numbers.map((n) => `A ${n} is ${when(rules, (r) => r[n])}.`),
		...(asked((r) => r.expiry) ? [`An expiry date is ${when(rules, (r) => r.expiry)}.`] : []),
		...Object.keys(names)
			.filter((code) => asked((r) => r.facts[code] ?? 'not asked'))
			.map((code) => `${names[code]} is ${when(rules, (r) => r.facts[code] ?? 'not asked')}.`)
	].join(' ');
}
