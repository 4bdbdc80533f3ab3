import { pool } from '../database/pool.ts';
import { tagsBefore } from './reader.ts';

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

const readers = new Set<(station: string) => void>();
let reading: Promise<unknown> | undefined;
/**
 * Calls back with the names of the tags before a station's reader: now, and whenever one comes or goes.
 * @returns how to stop
 */
export async function onReaderChange(stationId: string, tell: (names: string[]) => void): Promise<() => void> {
	reading ??= pool()
		.listen('tags', (station) => readers.forEach((r) => r(station)))
		.catch((e) => {
			reading = undefined;
			throw e;
		});
	await reading;
	const look = async () => tell((await tagsBefore(pool(), stationId)).map((t) => t.name));
	const listener = (station: string) => {
		if (station === stationId) void look().catch(() => {});
	};
	readers.add(listener);
	await look();
	return () => void readers.delete(listener);
}
