import { existsSync, readFileSync } from 'node:fs';

/** The value in the middle; of none it is NaN. */
export const median = (list: readonly number[]): number =>
	[...list].sort((a, b) => a - b)[Math.floor(list.length / 2)] ?? NaN;
/** The value that so great a part of them lies below. */
export const quantile = (list: readonly number[], part: number): number =>
	[...list].sort((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * part))] ?? NaN;
/** How long some work takes, in ms. */
export async function time(work: () => Promise<unknown>): Promise<number> {
	const t = performance.now();
	await work();
	return performance.now() - t;
}
/**
 * Some works in turn, each warm, as in a server that has been up for a while: every connection has its plan, the code is
 * compiled.
 * @returns the median of each in milliseconds
 */
export async function inTurn(times: number, works: (() => Promise<unknown>)[]): Promise<number[]> {
	const lists: number[][] = works.map(() => []);
	for (let round = 0; round < 3 * times; round++)
		for (const [i, work] of works.entries()) {
			const took = await time(work);
			if (round >= 2 * times) lists[i].push(took);
		}
	return lists.map(median);
}
/** One work by itself: its median in milliseconds. */
export const repeat = async (times: number, work: () => Promise<unknown>): Promise<number> =>
	(await inTurn(times, [work]))[0];
/** As it is printed. */
export const ms = (n: number): string => `${n < 10 ? n.toFixed(1) : Math.round(n)} ms`;

/** Ticks of all processors since the machine started, and those that its host gave to other machines (proc(5), /proc/stat). */
function ticks(): { all: number; stolen: number } {
	if (!existsSync('/proc/stat')) return { all: 0, stolen: 0 };
	const n = readFileSync('/proc/stat', 'utf8').split('\n', 1)[0].split(/\s+/).slice(1, 9).map(Number);
	return { all: n.reduce((sum, x) => sum + x, 0), stolen: n[7] };
}
/** More of the processors than this must not be taken away while something is measured. */
const MOST_STOLEN = 0.03;
const PAUSE = 3_000;
const from = ticks();
/** How long may be waited for a quiet machine in all, in ms. */
let patience = 600_000;
let again = 0;
/**
 * Measures, and measures again where the host of this machine gave its processors to others meanwhile: that says nothing of
 * what is measured. It is not waited for without end: the last counts then.
 */
export async function undisturbed<T>(measure: () => Promise<T>): Promise<T> {
	for (;;) {
		const [before, t] = [ticks(), performance.now()];
		const measured = await measure();
		const after = ticks();
		const stolen = (after.stolen - before.stolen) / Math.max(1, after.all - before.all);
		if (stolen <= MOST_STOLEN || patience <= 0) return measured;
		again++;
		await new Promise((next) => setTimeout(next, PAUSE));
		patience -= performance.now() - t;
	}
}
/** What of the processors was taken away while all of this was measured, in words. */
export function taken(): string {
	const { all, stolen } = ticks();
	const share = (100 * (stolen - from.stolen)) / Math.max(1, all - from.all);
	return `the host of this machine took ${share.toFixed(1)} % of its processors meanwhile; ${again} measurements were made again for that`;
}
