import type { Db } from '../database/connect.ts';
import { standing } from '../marks/standing.ts';
import { termsFor } from '../marks/terms.ts';
import type { Built, Given } from '../sheet/build.ts';
import { pickMoves } from '../sheet/picks.ts';
import { takenLines } from '../sheet/taken.ts';

const WORDS = { are: 'are issued', asked: 'are asked for', less: 'issue less', can: 'can be issued' };
/** An issue to a job: suggested or chosen stock for each line, which leaves the shelves for that job. */
export async function buildIssue(sql: Db, given: Given): Promise<Built> {
	const { order, drafts } = given;
	const site = order.place?.split('/')[0] ?? null;
	const ids = order.lines.map((l) => l.itemId);
	const [stock, terms] = await Promise.all([
		standing(sql, ids, order.id, site),
		termsFor(sql, ids, { place: site, customer: order.partner, purpose: 'use' })
	]);
	const { lines, said } = await takenLines(sql, given, stock, terms, WORDS);
	const moves = lines.flatMap((line) => pickMoves(line, '@job'));
	return { lines, said, kind: 'issue', runs: [], moves, enough: moves.length > 0, used: drafts.map((d) => d.id) };
}
