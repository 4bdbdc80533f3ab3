import type { Strength } from '$lib/core/checks/check';
import type { FactKind } from '$lib/core/facts/fact';

export const KINDS: Record<FactKind, string> = {
	text: 'text',
	number: 'number',
	date: 'date',
	choice: 'choice',
	file: 'file (PDF or picture)'
};
/** What a value outside its limits does. */
export const OUTSIDE: Record<Strength, string> = {
	stop: 'cannot be booked',
	reason: 'wants a reason',
	note: 'is only noted'
};
/** How an item is made. */
export const RUN_MODES = [
	['pooled', 'made as one batch'],
	['unit', 'made one by one']
] as const;
