import { moreThanOrdered, stillOpen } from '../../core/checks/catalogue.ts';
import { less, show, sub } from '../../core/quantity/quantity.ts';
import type { SheetLine } from '../../core/sheet/sheet.ts';
import type { Db } from '../database/connect.ts';
import type { OrderLine } from '../document/orders.ts';
import { binsHolding } from '../marks/onhand.ts';
import type { BuildInput } from './build.ts';
import { atLine, sheetLine, type Move, type SheetFinding } from './lines.ts';
import { placeRows, readRows, rowMoves, type ReadRow, type ReadRows } from './rows.ts';
import type { SheetRow } from '../../core/sheet/sheet.ts';

/** Where something comes from, and how its document speaks of less and of more than was said. */
export interface Arriving {
	from: '@supplier' | '@adjust';
	/** "12 missing" */
	missing: string;
	/** "3 more than ordered" */
	more: string;
}
/** A line with what was typed for it. */
export interface Arrived {
	line: SheetLine;
	order: OrderLine;
	shown: ReadonlyMap<ReadRow, SheetRow>;
	said: SheetFinding[];
	moves: Move[];
}

/** The rows of a document of what arrives, and what its lines make of them. */
export async function arrivingLines(
	sql: Db,
	{ order, drafts, today, policy, alone }: Pick<BuildInput, 'order' | 'drafts' | 'today' | 'policy' | 'alone'>,
	{ from, missing, more }: Arriving
): Promise<{ read: ReadRows; arrived: Arrived[] }> {
	const [read, bins] = await Promise.all([
		readRows(sql, order.lines, drafts, { today, arriving: from === '@supplier', place: order.place }),
		binsHolding(sql, alone ? [] : order.lines.map((l) => l.itemId), order.place)
	]);
	const arrived = order.lines.map((l): Arrived => {
		const line = { ...sheetLine(l), bins: bins(l.itemId) };
		const { said, shown } = placeRows(line, read);
		const unit = (n: string) =>
			l.tracking.includes('serial') ? (n === '1' ? 'serial' : 'serials') : l.unit === 'each' ? '' : l.unit;
		if (less(line.entered, line.open)) {
			const gap = sub(line.open, line.entered);
			said.push(atLine(line, stillOpen, { what: `${show(gap)} ${unit(gap)}`.trim() + ` ${missing}` }));
		} else if (less(line.open, line.entered)) {
			const over = `${show(sub(line.entered, line.open))} more than ${more}`;
			said.push(atLine(line, moreThanOrdered, { what: over, out: 'remove them' }, policy[moreThanOrdered.code]));
		}
		const moves = read.rows
			.filter((r) => shown.has(r))
			.flatMap((r) => rowMoves(l, { line, shown }, r, { from, to: order.place! }));
		return { line, order: l, shown, said, moves };
	});
	return { read, arrived };
}
