import type { Db } from '../database/connect.ts';
import { arrivingLines } from '../sheet/arriving.ts';
import type { Builder, Built, Given } from '../sheet/build.ts';
import { pickMoves } from '../sheet/picks.ts';
import { allThere, ANY, takenLines, type TakingWords } from '../sheet/taken.ts';

/** An adjustment in: what was found and is in no book, with the numbers that the rule asks. */
export async function buildPutIn(sql: Db, given: Given): Promise<Built> {
	const { read, arrived } = await arrivingLines(sql, given, {
		from: '@adjust',
		missing: 'of what was found not entered yet',
		more: 'was found'
	});
	return {
		lines: arrived.map((a) => a.line),
		said: arrived.flatMap((a) => a.said),
		kind: 'adjust',
		runs: [],
		moves: arrived.flatMap((a) => a.moves),
		enough: read.rows.length > 0,
		used: read.rows.map((r) => r.id)
	};
}

const WORDS: TakingWords = {
	...{ are: 'are named', asked: 'were to go', less: 'name less', can: 'are there' },
	short: (l, short) => (l.carries === 'none' ? null : `${short} not named yet: scan it, or choose from what is there`)
};

/**
 * An adjustment out: stock that is missing or scrapped. Which number it is nobody can suggest: a person names or scans it.
 * Only what carries none is taken without.
 */
async function buildTakeOut(sql: Db, given: Given): Promise<Built> {
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
