interface Rule {
	step: string;
	lot: string;
	serial: string;
}
/** "receipt, move and count" */
export const inSentence = (words: string[]) =>
	words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words[words.length - 1]}`;

/** A marking rule said in words: "A lot is required at every step. A serial is required at shipment; nothing is asked before." */
export function ruleSentence(rules: Rule[], numbers: readonly ('lot' | 'serial')[]): string {
	return numbers
		.map((n) => {
			const at = (how: string) => rules.filter((r) => r[n] === how).map((r) => r.step);
			const [required, asked] = [at('required'), at('asked')];
			if (required.length === rules.length) return `A ${n} is required at every step.`;
			if (!required.length && !asked.length) return `A ${n} is never asked.`;
			const parts = [
				...(required.length ? [`required at ${inSentence(required)}`] : []),
				...(asked.length ? [`asked at ${inSentence(asked)} (leaving it out wants a reason)`] : [])
			];
			return `A ${n} is ${parts.join(', ')}; nothing is asked elsewhere.`;
		})
		.join(' ');
}
