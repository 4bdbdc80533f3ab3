import { pressKey } from '../scan/press';
import Clock from './clock.worker?worker';

/** How the scanner behaves: as it should, or with a fault that real ones have. */
export const behaviours = ['works', 'scans twice', 'loses its last sign', 'types slowly'] as const;
/** One of them. */
export type Behaviour = (typeof behaviours)[number];
const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

/**
 * Presses the keys that a keyboard wedge would, where the cursor stands, each at the moment at which a scanner sends it: by a
 * clock of its own, so that a busy page does not stretch them.
 * @param text a code; Enter comes after it
 */
export async function wedge(text: string, behaviour: Behaviour = 'works') {
	const given = behaviour === 'loses its last sign' ? text.slice(0, -1) : text;
	for (let round = behaviour === 'scans twice' ? 2 : 1; round > 0; round--) {
		await send([...given, 'Enter'], behaviour === 'types slowly' ? 120 : 5);
		await pause(60);
	}
}

function send(keys: readonly string[], apart: number): Promise<void> {
	const clock = new Clock();
	return new Promise((done) => {
		let sent = 0;
		clock.onmessage = ({ data }: MessageEvent<number>) => {
			pressKey(keys[sent++], data - performance.timeOrigin);
			if (sent < keys.length) return;
			clock.terminate();
			done();
		};
		clock.postMessage({ keys: keys.length, pause: apart });
	});
}
