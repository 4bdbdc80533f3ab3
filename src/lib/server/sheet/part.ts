import { fillCells } from '../../core/allocation/cells.ts';
import { group } from '../../core/group/group.ts';
import type { SheetPart } from '../../core/sheet/sent.ts';
import { dayIn } from '../../core/time/clock.ts';
import type { Db } from '../database/connect.ts';
import { documentKind } from '../../core/document/kinds.ts';
import type { Order } from '../document/orders.ts';
import { readDrafts } from './drafts.ts';
import { sheetLine, showFindings } from './lines.ts';
import { chosenFor, namePicks } from './picks.ts';
import { placeRows, readRows } from './rows.ts';
import { scanLog } from './scanlog.ts';

/**
 * Rows of a long sheet by themselves, as they read: what one change was about. What is wrong with their form is said; the
 * whole is checked behind it.
 * @param ids of the rows that were changed
 * @param gone of those that were taken out
 */
export async function sheetPart(
	sql: Db,
	order: Order,
	ids: readonly string[],
	gone: readonly string[] = []
): Promise<SheetPart> {
	const now = new Date();
	const [drafts, scans] = await Promise.all([readDrafts(sql, order.id, ids), scanLog(sql, order)]);
	const read = await readRows(sql, order.lines, drafts, {
		today: dayIn(order.zone, now),
		arriving: documentKind(order.kind).fromSupplier,
		place: order.place
	});
	const part: SheetPart = { rows: [], picks: [], gone: [...gone], scans };
	const lines = order.lines.map((l) => {
		const line = sheetLine(l);
		const { said, shown } = placeRows(line, read);
		showFindings(said);
		for (const row of shown.values()) part.rows.push({ line: line.id, row });
		const chosen = chosenFor(l, drafts);
		const wanted = [...group(chosen, (c) => c.unit).keys()].map((unit) => ({ unit, need: '0' }));
		line.cells = fillCells(wanted, chosen, [], dayIn(order.zone, now)).cells;
		return line;
	});
	await namePicks(sql, lines, new Map(order.lines.map((l) => [l.id, l])));
	for (const line of lines)
		for (const { unit, picks } of line.cells) part.picks.push(...picks.map((pick) => ({ line: line.id, unit, pick })));
	return part;
}
