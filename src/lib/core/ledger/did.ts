import { ranged } from '../ranges/ranges.ts';
import { virtualPlace } from './places.ts';
import { stepOf, type At } from './steps.ts';
import type { Role } from './events.ts';

/** One thing that happened to a number. */
export interface Happened {
	kind: string;
	from: At | null;
	to: At | null;
	role: Role | null;
	partner: string | null;
	job: string | null;
	run: string | null;
	/** what the runs made: their units, or the numbers that came out of them */
	made: readonly string[];
	/** the run only gave numbers to what had none */
	numbering: boolean;
	/** id of the event that it takes back */
	undoes: string | null;
}

/**
 * What an event did to a number, in words: "used for WM-0207", "shipped to Sken Instruments", "moved to QS/A1". An act
 * that changes what is recorded is named by the act.
 */
export function sayDid(h: Happened): string {
	if (h.undoes) return 'undid an earlier booking';
	if (!h.from || !h.to) return sayAct(h.kind);
	const { role } = h;
	if (h.kind === 'correct')
		return role === 'use' ? `corrected: it is ${ranged(h.made)}` : 'corrected: came from another number';
	if (role) {
		const made = h.made.length ? ranged(h.made) : h.run ? `run ${h.run}` : 'several runs';
		if (h.numbering) return role === 'use' ? `numbered as ${made}` : 'given its number';
		if (role === 'use') return `used for ${made}`;
		if (role === 'detach' && h.kind === 'use') return `given back by ${made}`;
		return role === 'detach' ? `taken out of ${made}` : `made in ${h.run ?? 'several runs'}`;
	}
	const step = stepOf({ kind: h.kind, from: h.from, to: h.to });
	switch (step) {
		case 'receipt':
			return `received from ${h.partner ?? 'a supplier'}`;
		case 'customer return':
			return `came back from ${h.partner ?? 'a customer'}`;
		case 'shipment':
			return `shipped to ${h.partner ?? 'a customer'}`;
		case 'supplier return':
			return `sent back to ${h.partner ?? 'its supplier'}`;
		case 'job use':
			return `issued to ${h.job ?? 'a job'}`;
		case 'move':
			return `moved to ${h.to.code}`;
		case 'transfer':
			return `transferred to ${h.to.code}`;
		case 'count':
			return h.from.code === '@adjust' ? 'found at a count' : 'missing at a count';
		default:
			return step === 'adjustment in' ? 'adjusted in' : (virtualPlace(h.to.code)?.took ?? 'adjusted away');
	}
}
const sayAct = (kind: string) =>
	({
		hold: 'put on hold',
		quarantine: 'put into quarantine',
		release: 'released',
		reject: 'rejected',
		correct: 'corrected',
		begin: 'begun: released to the floor'
	})[kind] ?? kind;
