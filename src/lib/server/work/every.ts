import { isLost } from '../database/lost.ts';
import { log, plainError } from '../log.ts';

/**
 * Does something again and again, with a pause between, for as long as the process runs. What fails is logged and tried again.
 * @param every pause in ms
 * @param failed what the log says of a failure
 * @param round does it once; it is told how to see that it is to stop
 * @returns how to stop it; settles when nothing of it runs any more
 */
export function keepDoing(
	every: number,
	failed: string,
	round: (stopped: () => boolean) => Promise<unknown>
): () => Promise<void> {
	let stopped = false;
	let timer: NodeJS.Timeout | undefined;
	let running: Promise<void> = Promise.resolve();
	const once = () =>
		round(() => stopped).then(
			() => {},
			(error: unknown) => {
				if (!isLost(error)) log.error({ err: plainError(error) }, failed);
			}
		);
	const again = () => {
		if (stopped) return;
		timer = setTimeout(() => {
			running = once().then(again);
		}, every).unref();
	};
	again();
	return async () => {
		stopped = true;
		clearTimeout(timer);
		await running;
	};
}
