import type { Key } from '$lib/core/codes/wedge';
import { pressKey } from './press';

/**
 * Presses again what came before the page answered, where the cursor stands now. Whether it was a scan the times say at which
 * the keys were pressed, not how quickly a busy page can take them in; what is still coming goes on with it. before.js keeps
 * them, Ctrl+] as FNC1.
 */
export function takeEarly(): void {
	const keys: Key[] = 'earlyKeys' in window && Array.isArray(window.earlyKeys) ? window.earlyKeys.splice(0) : [];
	for (const { key, at, repeat } of keys) pressKey(key, at, repeat);
}
