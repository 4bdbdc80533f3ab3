import type { Db } from '../database/connect.ts';
import { unread } from '../../core/checks/catalogue.ts';
import { found } from '../../core/checks/check.ts';
import { parseCost } from '../../core/cost/cost.ts';
import { arrivingLines, type Arrived } from '../sheet/arriving.ts';
import type { Builder, Built, BuildInput } from '../sheet/build.ts';
import type { Target } from '../sheet/lines.ts';
import { pickMoves } from '../sheet/picks.ts';
import { allThere, ANY, takenLines, type TakingWords } from '../sheet/taken.ts';
import { proposeCosts } from './cost.ts';

/** An adjustment in: what was found and is in no book, with the numbers that the rule asks. */
export async function buildPutIn(sql: Db, given: BuildInput): Promise<Built> {
	const { read, arrived } = await arrivingLines(sql, given, {
		from: '@adjust',
		missing: 'still to enter',
		more: 'was found'
	});
	const costs = await askCosts(sql, arrived);
	return {
		lines: arrived.map((a) => a.line),
		said: arrived.flatMap((a) => a.said),
		kind: 'adjust',
		runs: [],
		moves: arrived.flatMap((a) =>
			a.moves.map((m) => ({ ...m, movement: { ...m.movement, unitCost: costs.get(m.of) ?? null } }))
		),
		enough: read.rows.length > 0,
		used: read.rows.map((r) => r.id)
	};
}

/**
 * Asks what one of each row costs: what is typed counts, else what is proposed from what is noted of it.
 * @returns the cost of one, by the row as it is shown; none where it is still to come
 */
async function askCosts(sql: Db, arrived: readonly Arrived[]): Promise<Map<Target, string>> {
	const rows = arrived.flatMap((a) => [...a.shown].map(([read, shown]) => ({ a, read, shown })));
	const proposed = await proposeCosts(
		sql,
		rows.map(({ a, read }) => ({ itemId: a.order.itemId, lot: read.lot, serial: read.serial }))
	);
	for (const a of arrived) a.line.costs = true;
	const costs = new Map<Target, string>();
	for (const [n, { a, shown }] of rows.entries()) {
		const proposal = proposed[n];
		if (proposal) shown.costProposed = proposal;
		const typed = shown.cost ? parseCost(shown.cost) : null;
		if (typed && 'problem' in typed)
			a.said.push({ line: a.line, of: shown, found: found(unread, typed, { line: -1, about: null }) });
		const cost = typed ? ('cost' in typed ? typed.cost : null) : (proposal?.cost ?? null);
		if (cost !== null) costs.set(shown, cost);
	}
	return costs;
}

const WORDS: TakingWords = {
	...{ are: 'are named', asked: 'were to go', less: 'name less', can: 'are there' },
	short: (l, short) => (l.carries === 'none' ? null : `${short} not named yet: scan it, or choose from what is there`)
};

/**
 * An adjustment out: stock that is missing or scrapped. Which number it is nobody can suggest: a person names or scans it.
 * Only what carries none is taken without.
 */
async function buildTakeOut(sql: Db, given: BuildInput): Promise<Built> {
	const { order, drafts } = given;
	const scrap = order.reason?.act === 'scrap';
	const { lines, said } = await takenLines(sql, given, await allThere(sql, order), () => ANY, WORDS, {
		suggests: (s) => s.kind === 'unmarked'
	});
	const moves = lines.flatMap((line) => pickMoves(line, scrap ? '@scrap' : '@adjust'));
	return {
		...{ lines, said, runs: [], moves },
		kind: scrap ? 'scrap' : 'adjust',
		enough: moves.length > 0,
		used: drafts.map((d) => d.id)
	};
}

/** Adjustments out. */
export const removals: Builder = {
	build: buildTakeOut,
	takes: async (sql, order) => ({ stock: await allThere(sql, order), any: true, missing: async () => null })
};
