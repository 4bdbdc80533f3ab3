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
