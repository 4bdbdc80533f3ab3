/** Who takes scans now: the document that is open, or else the scan line. */
type Taker = (text: string, into: Element | null) => boolean | Promise<boolean>;
const takers: Taker[] = [];

/**
 * Takes scans until the returned function is called; whoever came last is asked first.
 * @param taker true when it took the scan, also later; false leaves it as typed where the cursor is, also later, when nobody
 *   knows what was scanned
 */
export function takeScans(taker: Taker): () => void {
	takers.push(taker);
	return () => void takers.splice(takers.indexOf(taker), 1);
}
/** Hands a scan to whoever takes it, the newest first. @returns whether it is known; false where nobody takes it */
export function giveScan(text: string, into: Element | null): boolean | Promise<boolean> {
	for (const taker of takers.toReversed()) {
		const taken = taker(text, into);
		if (taken) return taken;
	}
	return false;
}

/** The field that takes what is typed while nothing has the cursor. */
let line: HTMLInputElement | null = null;
/** Makes a field that one, until the returned function is called. */
export function lineIs(field: HTMLInputElement): () => void {
	const before = line;
	line = field;
	return () => {
		if (line === field) line = before;
	};
}
/** Where it is; null on a page that has none. */
export const scanLine = (): HTMLInputElement | null => (line?.isConnected ? line : null);

/** Puts text where the cursor of a field stands, as if it were typed there. */
export function putText(field: Element | null, text: string): void {
	if (!text || !(field instanceof HTMLInputElement || field instanceof HTMLTextAreaElement)) return;
	field.setRangeText(text, field.selectionStart ?? 0, field.selectionEnd ?? 0, 'end');
	field.dispatchEvent(new Event('input', { bubbles: true }));
}

/** The field in the work area that had the cursor last: where a scan from a panel beside it goes. */
let field: Element | null = null;
export function rememberField(target: EventTarget | null) {
	if (target instanceof Element && target.closest('#work')) field = target;
}
/** Brings the cursor back to that field; where there is none, nothing has it. */
export function backToField(): void {
	if (field?.isConnected) (field as HTMLElement).focus();
	else (document.activeElement as HTMLElement | null)?.blur();
}

let audio: AudioContext | null = null;
/** How something sounds: taken, written into a tag, not taken. */
export type Sound = 'good' | 'wrote' | 'bad';
/** Tones by their pitch, and when each begins: one short high one, two that rise, two low ones. */
const TONES: Record<Sound, readonly [hz: number, from: number][]> = {
	good: [[1200, 0]],
	wrote: [
		[1200, 0],
		[1600, 0.09]
	],
	bad: [
		[220, 0],
		[180, 0.18]
	]
};
/** Two low tones for a scan that was not taken; one short high one for a scan that was, and a second for a tag that was written. */
export function sound(heard: Sound) {
	const good = heard !== 'bad';
	try {
		audio ??= new AudioContext();
		for (const [hz, from] of TONES[heard]) {
			const [tone, level] = [audio.createOscillator(), audio.createGain()];
			tone.frequency.value = hz;
			level.gain.value = good ? 0.04 : 0.12;
			tone.connect(level).connect(audio.destination);
			tone.start(audio.currentTime + from);
			tone.stop(audio.currentTime + from + (good ? 0.06 : 0.15));
		}
	} catch {
		// No sound device: the log shows it.
	}
}
