import { Wedge } from '$lib/core/codes/wedge';
import { giveScan } from './scanner';

/** A key that was pressed before the page answered, and when, in ms; Ctrl+] as FNC1. before.js keeps them. */
interface EarlyKey {
	key: string;
	at: number;
}

/** Puts text where the cursor stands, as if it were typed there. */
function put(text: string) {
	const el = document.activeElement;
	if (!text || !(el instanceof HTMLInputElement || el instanceof HTMLTextAreaElement)) return;
	el.setRangeText(text, el.selectionStart ?? 0, el.selectionEnd ?? 0, 'end');
	el.dispatchEvent(new Event('input', { bubbles: true }));
}

/**
 * What came before the page answered: a scan goes to whoever takes it, anything else to where the cursor stands now. Which
 * it was the times say at which the keys were pressed, not how quickly a busy page can take them in again.
 */
export function takeEarly(): void {
	const keys: EarlyKey[] = 'earlyKeys' in window && Array.isArray(window.earlyKeys) ? window.earlyKeys.splice(0) : [];
	const wedge = new Wedge();
	let typed = '';
	for (const { key, at } of keys) {
		const scan = wedge.key(key, at);
		if (key !== 'Enter') {
			typed += key;
			continue;
		}
		const taken = scan !== null && giveScan(scan, document.activeElement);
		put(taken ? typed.slice(0, -scan.length) : typed);
		typed = '';
		if (!taken)
			for (const type of ['keydown', 'keyup'])
				document.activeElement?.dispatchEvent(new KeyboardEvent(type, { key, bubbles: true, cancelable: true }));
	}
	put(typed);
}
