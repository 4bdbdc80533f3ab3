import type { Db } from '../database/connect.ts';
import { fillCells } from '../../core/allocation/cells.ts';
import { moreThanOrdered, stillOpen } from '../../core/checks/catalogue.ts';
import { amount, less, show } from '../../core/quantity/quantity.ts';
import { standing } from '../marks/standing.ts';
import { termsFor } from '../marks/terms.ts';
import type { Built, Given } from '../sheet/build.ts';
import { atLine, sheetLine, type Said } from '../sheet/lines.ts';
import { chosenFor, namePicks, picked, pickFindings, pickMoves, stockOf } from '../sheet/picks.ts';

/** An issue to a job: suggested or chosen stock for each line, which leaves the shelves for that job. */
export async function buildIssue(sql: Db, { order, drafts, today, policy }: Given): Promise<Built> {
	const site = order.place?.split('/')[0] ?? null;
	const ids = order.lines.map((l) => l.itemId);
	const [stock, terms] = await Promise.all([
		standing(sql, ids, order.id, site),
		termsFor(sql, ids, { place: site, customer: order.partner, purpose: 'use' })
	]);
	const said: Said[] = [];
	const lines = order.lines.map((l) => {
		const line = sheetLine(l);
		const mine = stockOf(stock, l);
		const chosen = chosenFor(l, drafts);
		const { cells, leftOut } = fillCells([{ unit: null, need: line.open }], chosen, mine, today, {
			terms: terms(l.itemId),
			line: l.id
		});
		line.cells = cells;
		line.leftOut = leftOut;
		line.entered = picked(cells);
		said.push(...pickFindings(line, chosen, mine));
		const [{ short }] = cells;
		if (less(line.open, line.entered)) {
			const what = `${show(line.entered)} are issued, ${show(line.open)} are asked for`;
			said.push(atLine(line, moreThanOrdered, { what, out: 'issue less' }, policy[moreThanOrdered.code]));
		} else if (short !== '0')
			said.push(
				atLine(line, stillOpen, { what: `${amount(short, l.unit)} short: ${show(line.entered)} can be issued` })
			);
		return line;
	});
	await namePicks(sql, lines, new Map(order.lines.map((l) => [l.id, l])));
	const moves = lines.flatMap((line) => pickMoves(line, '@job'));
	return { lines, said, kind: 'issue', runs: [], moves, enough: moves.length > 0, used: drafts.map((d) => d.id) };
}
