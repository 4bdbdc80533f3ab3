import { GS } from '$lib/core/codes/gs1';

/** How the scanner behaves: as it should, or with a fault that real ones have. */
export const behaviours = ['works', 'scans twice', 'loses its last sign', 'types slowly'] as const;
/** One of them. */
export type Behaviour = (typeof behaviours)[number];
const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

/**
 * Presses the keys that a keyboard wedge would, where the cursor stands: through the same door as a real one.
 * @param text a code; Enter comes after it
 */
export async function wedge(text: string, target: Element | null, behaviour: Behaviour = 'works') {
	const given = behaviour === 'loses its last sign' ? text.slice(0, -1) : text;
	for (let round = behaviour === 'scans twice' ? 2 : 1; round > 0; round--) {
		for (const sign of [...given, 'Enter']) {
			const el = (target?.isConnected ? target : document.body) as HTMLInputElement;
			const press = (type: string) =>
				el.dispatchEvent(
					new KeyboardEvent(type, {
						key: sign === GS ? ']' : sign,
						ctrlKey: sign === GS,
						bubbles: true,
						cancelable: true
					})
				);
			if (press('keydown') && sign.length === 1 && sign !== GS && 'setRangeText' in el && el.tagName === 'INPUT') {
				el.setRangeText(sign, el.selectionStart ?? 0, el.selectionEnd ?? 0, 'end');
				el.dispatchEvent(new Event('input', { bubbles: true }));
			}
			press('keyup');
			await pause(behaviour === 'types slowly' ? 120 : 5);
		}
		await pause(60);
	}
}
