import { pool } from '../database/pool.ts';

/** Waits for entries, by the size of the ledger that each waits to be passed. */
interface Waiting {
	size: number;
	done: () => void;
}
const waiting = new Set<Waiting>();
let listening: Promise<unknown> | undefined;

/**
 * Waits until the ledger has more than so many entries, in whichever instance they are sealed.
 * @param most how long, in ms; then it ends all the same
 */
export async function sealedBeyond(size: number, most: number): Promise<void> {
	listening ??= pool()
		.listen('sealed', (now) => {
			for (const w of waiting) if (Number(now) > w.size) w.done();
		})
		.catch((e) => {
			listening = undefined;
			throw e;
		});
	await listening;
	// What was sealed before anybody listened is told to nobody.
	const [{ now }] = await pool()<{ now: string | null }[]>`SELECT max(index) + 1 AS now FROM ledger_leaf`;
	if (Number(now) > size) return;
	await new Promise<void>((end) => {
		const timer = setTimeout(() => one.done(), most);
		const one: Waiting = {
			size,
			done: () => {
				clearTimeout(timer);
				waiting.delete(one);
				end();
			}
		};
		waiting.add(one);
	});
}
