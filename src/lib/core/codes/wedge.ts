/** Between the keys of a scanner there are mostly no more than so many ms; common practice: 1 to 20, a fast typist needs 60. */
export const MOST_GAP = 40;
/** A code has so many signs at least. */
export const LEAST_LENGTH = 4;
/** After so many ms without a key something else is typed. */
export const PAUSE = 500;

/** A key as the page hears it. */
export interface Key {
	/** as KeyboardEvent.key gives it; Ctrl+] stands for FNC1 */
	key: string;
	/** when it was pressed, in ms */
	at: number;
	/** it is held down, and comes again and again */
	repeat?: boolean;
	/** the field that has the cursor, null where none has */
	field?: unknown;
}

/** What was typed into one field without a pause: a scanner's code or a person's typing, which only its end tells. */
interface Run {
	signs: string;
	gaps: number[];
	field: unknown;
	last: number;
	/** a key was held, or another than a sign came between: no scanner does that */
	byHand: boolean;
}

/**
 * Tells a scanner's keys from typing. A run is all signs in one field since Enter, Tab, a click or half a second's pause. It is
 * a scan when it has at least four signs, none came of a key that was held, and the median of the pauses between them is at
 * most 40 ms; else it stays what was typed. So a code arrives whole, however busy the page was between two of its keys, or not
 * at all.
 */
export class Wedge {
	private run: Run | null = null;

	/** How many signs the run has that goes on now. */
	get length(): number {
		return this.run?.signs.length ?? 0;
	}

	/** Would a sign be the first of a run? */
	begins({ at, field = null }: Pick<Key, 'at' | 'field'>): boolean {
		return !this.run || at - this.run.last > PAUSE || this.run.field !== field;
	}

	/** Ends what was typed: the cursor was put somewhere else. */
	end(): void {
		this.run = null;
	}

	/** @returns the scanned text when this key, Enter or Tab, ends a scan; null otherwise */
	key({ key, at, repeat = false, field = null }: Key): string | null {
		if (key === 'Enter' || key === 'Tab') {
			const run = this.begins({ at, field }) ? null : this.run;
			this.run = null;
			return run && isScan(run) ? run.signs : null;
		}
		if (['Shift', 'Control', 'Alt', 'AltGraph', 'CapsLock'].includes(key)) return null;
		const sign = key.length === 1;
		if (this.begins({ at, field })) {
			// What is moved or deleted by hand is typed by hand, up to the next pause.
			this.run = { signs: sign ? key : '', gaps: [], field, last: at, byHand: !sign || repeat };
			return null;
		}
		const run = this.run!;
		if (sign) {
			if (run.signs) run.gaps.push(at - run.last);
			run.signs += key;
		}
		if (!sign || repeat) run.byHand = true;
		run.last = at;
		return null;
	}
}

const isScan = ({ signs, gaps, byHand }: Run): boolean =>
	!byHand && signs.length >= LEAST_LENGTH && median(gaps) <= MOST_GAP;

function median(gaps: readonly number[]): number {
	const sorted = gaps.toSorted((a, b) => a - b);
	const middle = sorted.length / 2;
	return sorted.length % 2 ? sorted[Math.floor(middle)] : (sorted[middle - 1] + sorted[middle]) / 2;
}
