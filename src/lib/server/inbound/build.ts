import type { Db } from '../database/connect.ts';
import { moreThanOrdered, stillOpen } from '../../core/checks/catalogue.ts';
import { less, show, sub } from '../../core/quantity/quantity.ts';
import { checkReleased, releasedFor } from '../numbering/released.ts';
import { binsHolding } from '../marks/standing.ts';
import type { Built, Given } from '../sheet/build.ts';
import { atLine, sheetLine, type Said } from '../sheet/lines.ts';
import { placeRows, readRows, rowMoves } from '../sheet/rows.ts';
import { compareNotice } from './notice.ts';

/** A delivery: typed rows under each line, and the receipt that "Book in" would book. */
export async function buildDelivery(sql: Db, { order, drafts, today, policy }: Given): Promise<Built> {
	const [read, released, bins] = await Promise.all([
		readRows(sql, order.lines, drafts, { today, arriving: true, place: order.place }),
		releasedFor(sql, order, drafts),
		binsHolding(
			sql,
			order.lines.map((l) => l.itemId),
			order.place
		)
	]);
	const [notice, notDrawn] = await Promise.all([
		compareNotice(sql, order, read.rows, policy),
		checkReleased(sql, order.lines, read.rows, policy)
	]);
	const said: Said[] = [];
	const built = order.lines.map((l) => {
		const line = {
			...sheetLine(l),
			announced: notice?.lines.get(l.id),
			released: released.get(l.id),
			bins: bins(l.itemId)
		};
		const placed = placeRows(line, read);
		said.push(...placed.said);
		for (const f of [...notDrawn, ...(notice?.odd ?? [])]) {
			const of = placed.shown.get(f.row);
			if (of) said.push({ line, of, found: f.found });
		}
		const unit = (n: string) =>
			l.tracking.includes('serial') ? (n === '1' ? 'serial' : 'serials') : l.unit === 'each' ? '' : l.unit;
		if (less(line.entered, line.open)) {
			const gap = sub(line.open, line.entered);
			said.push(atLine(line, stillOpen, { what: `${show(gap)} ${unit(gap)}`.trim() + ' missing' }));
		} else if (less(line.open, line.entered)) {
			const over = `${show(sub(line.entered, line.open))} more than ordered`;
			said.push(atLine(line, moreThanOrdered, { what: over, out: 'remove them' }, policy[moreThanOrdered.code]));
		}
		const moves = placed.shown.size
			? read.rows
					.filter((r) => placed.shown.has(r))
					.flatMap((r) => rowMoves(l, { line, shown: placed.shown }, r, { from: '@supplier', to: order.place! }))
			: [];
		return { line, moves };
	});
	return {
		lines: built.map((b) => b.line),
		shows: notice ? { notice: { name: notice.name, at: notice.at, by: notice.by } } : {},
		said,
		kind: 'receipt',
		runs: [],
		moves: built.flatMap((b) => b.moves),
		enough: read.rows.length > 0,
		used: read.rows.map((r) => r.id)
	};
}
