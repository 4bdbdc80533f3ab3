import { GS } from '$lib/core/codes/gs1';
import { putText } from './scanner';

/**
 * Presses a key where the cursor stands, through the same door as a real one: whoever listens hears it, and what nobody takes
 * is written there.
 * @param key as KeyboardEvent.key gives it; FNC1 as Ctrl+]
 * @param at when it was pressed, in ms of the page's clock
 */
export function pressKey(key: string, at: number, repeat = false): void {
	const fnc1 = key === GS;
	const press = (type: string) => {
		const event = new KeyboardEvent(type, {
			...{ key: fnc1 ? ']' : key, ctrlKey: fnc1, repeat },
			...{ bubbles: true, cancelable: true }
		});
		Object.defineProperty(event, 'timeStamp', { value: at });
		return (document.activeElement ?? document.body).dispatchEvent(event);
	};
	if (press('keydown') && key.length === 1 && !fnc1) putText(document.activeElement, key);
	press('keyup');
}
