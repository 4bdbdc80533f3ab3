/** Signs that are taken for one another when a number is read or typed: O for 0, I and l for 1. */
const seen = (number: string) => number.toLowerCase().replaceAll('o', '0').replaceAll(/[il|]/g, '1');

/**
 * How many slips lie between what was typed and a number: a sign that is wrong, left out, too many, or swapped with its
 * neighbour (the optimal string alignment distance; Damerau, A technique for computer detection and correction of
 * spelling errors, CACM 7, 1964). Letters large or small, O for 0 and I for 1 count for none.
 * @param most beyond this many it is not counted on
 * @returns the slips, or most + 1
 */
export function slips(typed: string, number: string, most = 2): number {
	const [a, b] = [[...seen(typed)], [...seen(number)]];
	if (Math.abs(a.length - b.length) > most) return most + 1;
	let [before, last] = [[] as number[], b.map((_, j) => j).concat(b.length)];
	for (let i = 1; i <= a.length; i++) {
		const row = [i];
		for (let j = 1; j <= b.length; j++) {
			const same = a[i - 1] === b[j - 1] ? 0 : 1;
			row[j] = Math.min(last[j] + 1, row[j - 1] + 1, last[j - 1] + same);
			if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
				row[j] = Math.min(row[j], before[j - 2] + 1);
		}
		if (Math.min(...row) > most) return most + 1;
		[before, last] = [last, row];
	}
	return Math.min(last[b.length], most + 1);
}

/**
 * The numbers nearest to what was typed: with the fewest slips first, then in their own order.
 * @param most how many slips are still near
 */
export const nearest = <T>(typed: string, list: readonly T[], numberOf: (x: T) => string, most = 2): T[] =>
	list
		.map((x) => ({ x, n: slips(typed, numberOf(x), most) }))
		.filter(({ n }) => n <= most)
		.sort((p, q) => p.n - q.n)
		.map(({ x }) => x);
