import { pool } from '../database/pool.ts';

type Listener = () => void;
const listeners = new Set<Listener>();
let listening: Promise<unknown> | undefined;

/**
 * Calls back whenever a unit on the floor has moved, in whichever instance.
 * @returns how to stop
 */
export async function onFloorChange(tell: Listener): Promise<() => void> {
	listening ??= pool()
		.listen('floor', () => listeners.forEach((l) => l()))
		.catch((e) => {
			listening = undefined;
			throw e;
		});
	await listening;
	listeners.add(tell);
	return () => void listeners.delete(tell);
}
