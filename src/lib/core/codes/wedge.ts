/** A keyboard wedge types as a person does, only faster, and ends with Enter or Tab. */
export const MOST_GAP = 40;
const LEAST_LENGTH = 4;
/** A burst that is plainly one may stop for so long once in a while: the page was busy. */
const HICCUP = 200;

/**
 * Tells a scanner's burst of keys from typing: at least four signs, none more than 40 ms (common practice: wedges send
 * a key in 1 to 20 ms, a fast typist needs 60) after the one before, then Enter or Tab as quickly.
 */
export class Wedge {
	private burst = '';
	private first = 0;
	private last = -Infinity;

	/** True when nothing of a burst is held: the next key may be the first of one. */
	get idle(): boolean {
		return !this.burst;
	}

	/** Is what is held plainly a scanner's? */
	get sure(): boolean {
		return this.burst.length >= LEAST_LENGTH && (this.last - this.first) / (this.burst.length - 1) <= MOST_GAP;
	}

	/**
	 * @param key as KeyboardEvent.key gives it; Ctrl+] stands for FNC1
	 * @param at when, in ms
	 * @returns the scanned text when this key ends a burst; null otherwise
	 */
	key(key: string, at: number): string | null {
		const gap = at - this.last;
		const quick = gap <= (this.sure ? HICCUP : MOST_GAP);
		this.last = at;
		if (key === 'Enter' || key === 'Tab') {
			const text = quick ? this.burst : '';
			this.burst = '';
			return text.length >= LEAST_LENGTH ? text : null;
		}
		if (key.length !== 1) {
			if (key !== 'Shift' && key !== 'Control' && key !== 'Alt') this.burst = '';
			return null;
		}
		if (!quick) this.first = at;
		this.burst = quick ? this.burst + key : key;
		return null;
	}
	/** How long after its last key a burst has ended: what was typed then was typing. */
	stale(at: number): boolean {
		return at - this.last > MOST_GAP;
	}
}
