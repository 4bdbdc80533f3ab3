/** Who takes scans now: the document that is open, or else the scan line. */
type Taker = (text: string, into: Element | null) => boolean;
const takers: Taker[] = [];

/**
 * Takes scans until the returned function is called; whoever came last is asked first.
 * @param taker true when it took the scan; false leaves it as typed where the cursor is
 */
export function takeScans(taker: Taker): () => void {
	takers.push(taker);
	return () => void takers.splice(takers.indexOf(taker), 1);
}
/** Hands a scan to whoever takes it, the newest first. */
export const giveScan = (text: string, into: Element | null): boolean =>
	[...takers].reverse().some((taker) => taker(text, into));

/** The field in the work area that had the cursor last: where a scan from a panel beside it goes. */
let field: Element | null = null;
export function rememberField(target: EventTarget | null) {
	if (target instanceof Element && target.closest('#work')) field = target;
}
/** Brings the cursor back to that field. @returns it, or the page where there is none */
export function backToField(): Element {
	const target = field?.isConnected ? (field as HTMLElement) : document.body;
	target.focus();
	return target;
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
