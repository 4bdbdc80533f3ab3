import Fraction from 'fraction.js';
import loadSolver from 'highs';

/** The solver computes with doubles: beyond this many of the common measure it could be one off. */
const EXACT = 1e9;
/** Seconds after which the best that was found counts. */
const PATIENCE = 5;
/** Loaded with the first program that has to be solved. */
let solver: ReturnType<typeof loadSolver> | null = null;

/**
 * How many packs of each size go into each lot, so that as many packs as possible hold one lot alone: each pack left over
 * must mix, since no lot has room for it. The largest packs first, each in the first lot that has room, is tried before;
 * where that leaves packs over, an integer program is solved (HiGHS).
 * @param room content of each lot
 * @param size content of one pack of each size
 * @param count how many packs of each size there are
 * @returns for each lot the number of packs of each size
 */
export async function mostWhole(
	room: readonly Fraction[],
	size: readonly Fraction[],
	count: readonly number[]
): Promise<number[][]> {
	const quick = largestFirst(room, size, count);
	const placed = sum(quick.flat());
	if (placed === sum(count) || room.length * size.length === 0) return quick;
	const better = await solve(room, size, count);
	return better && sum(better.flat()) > placed && fits(better, room, size, count) ? better : quick;
}
const sum = (list: readonly number[]) => list.reduce((s, n) => s + n, 0);

function largestFirst(room: readonly Fraction[], size: readonly Fraction[], count: readonly number[]): number[][] {
	const left = [...room];
	const open = [...count];
	const out = room.map(() => size.map(() => 0));
	const order = size.map((_, i) => i).sort((a, b) => size[b].compare(size[a]));
	for (const i of order)
		for (let n = 0; n < left.length && open[i] > 0; n++) {
			if (left[n].compare(size[i]) < 0) continue;
			const take = Math.min(open[i], Number(left[n].div(size[i]).floor().valueOf()));
			out[n][i] += take;
			open[i] -= take;
			left[n] = left[n].sub(size[i].mul(take));
		}
	return out;
}

function fits(
	plan: readonly number[][],
	room: readonly Fraction[],
	size: readonly Fraction[],
	count: readonly number[]
): boolean {
	return (
		plan.every((row, n) => row.reduce((s, k, i) => s.add(size[i].mul(k)), new Fraction(0)).compare(room[n]) <= 0) &&
		count.every((most, i) => sum(plan.map((row) => row[i])) <= most)
	);
}

/** The integer program; null where its numbers are too large to be computed exactly. */
async function solve(
	room: readonly Fraction[],
	size: readonly Fraction[],
	count: readonly number[]
): Promise<number[][] | null> {
	// In whole multiples of the largest measure that every size is a multiple of; room is rounded down to it.
	const measure = size.reduce((a, b) => a.gcd(b));
	const weight = size.map((s) => Number(s.div(measure).valueOf()));
	const space = room.map((r) => Math.max(0, Number(r.div(measure).floor().valueOf())));
	if (Math.max(...weight, ...space, ...count) > EXACT) return null;
	const cells = room.flatMap((_, n) =>
		size.flatMap((_s, i) => (weight[i] <= space[n] && count[i] > 0 ? [{ n, i, name: `x${n}_${i}` }] : []))
	);
	if (!cells.length) return null;
	const lots = room.flatMap((_, n) => {
		const mine = cells.filter((c) => c.n === n);
		return mine.length ? [` l${n}: ${mine.map((c) => `${weight[c.i]} ${c.name}`).join(' + ')} <= ${space[n]}`] : [];
	});
	const packs = size.flatMap((_, i) => {
		const mine = cells.filter((c) => c.i === i);
		return mine.length ? [` p${i}: ${mine.map((c) => c.name).join(' + ')} <= ${count[i]}`] : [];
	});
	const names = cells.map((c) => c.name);
	solver ??= loadSolver();
	const answer = (await solver).solve(
		[
			'Maximize',
			` all: ${names.join(' + ')}`,
			'Subject To',
			...lots,
			...packs,
			'General',
			` ${names.join(' ')}`,
			'End'
		].join('\n'),
		{ mip_rel_gap: 0, mip_abs_gap: 0, time_limit: PATIENCE, output_flag: false }
	);
	if (!('Columns' in answer)) return null;
	const out = room.map(() => size.map(() => 0));
	for (const { n, i, name } of cells) {
		const column = answer.Columns[name];
		out[n][i] = 'Primal' in column ? Math.round(column.Primal ?? 0) : 0;
	}
	return out;
}
