import { pool } from '../database/pool.ts';

type Listener = () => void;
const listeners = new Map<string, Set<Listener>>();
let listening: Promise<unknown> | undefined;

/** Calls back whenever an order's sheet changes, whoever changed it and in whichever instance. @returns how to stop */
export async function onOrderChange(code: string, tell: Listener): Promise<() => void> {
	await (listening ??= pool().listen('order', (changed) => listeners.get(changed)?.forEach((l) => l())));
	const set = listeners.get(code) ?? new Set();
	listeners.set(code, set.add(tell));
	return () => {
		set.delete(tell);
		if (!set.size) listeners.delete(code);
	};
}
