import type { Scan } from '../../core/codes/scan.ts';
import { placeName } from '../../core/ledger/places.ts';
import { readBack } from '../../core/numbering/pattern.ts';
import { div, least, less, rest, sub, total } from '../../core/quantity/quantity.ts';
import { expand } from '../../core/ranges/ranges.ts';
import type { Db } from '../database/connect.ts';
import type { Order, OrderLine } from '../document/orders.ts';
import { calledNow } from '../marks/called.ts';
import { onHand, type OnHand } from '../marks/onhand.ts';
import type { DraftRow } from './drafts.ts';
import { Refused, type Placed } from './placed.ts';
import { pickFromScan } from './scanpick.ts';

/** A scan that goes into what is made, with the row that it becomes. */
interface PartScan {
	line: OrderLine;
	row: Placed;
}

/**
 * What a scan puts into what is made: a lot or serial of a part, into the unit that was scanned last if that lacks such a part,
 * else into the first in the order of the sheet that does; in an order made in batch to the ingredient's line.
 * @param read the rows of the sheet, asked for only where it is a part
 * @param hint id of the line that the cursor stands in: what could be a part or what is made goes there
 * @returns null where the number is of no part
 * @throws Refused where no unit lacks it, it is in the sheet already, lies nowhere, or could be either
 */
export async function partFor(
	tx: Db,
	order: Order,
	scan: Scan,
	hint: string | null,
	read: () => Promise<readonly DraftRow[]>
): Promise<PartScan | null> {
	const outputs = order.lines.filter((l) => l.role === 'output' || l.role === 'byproduct');
	const parts = order.lines.filter((l) => l.role === 'component' && (!scan.gtin || l.gtin === scan.gtin));
	const number = scan.serial ?? scan.lot ?? (scan.coded ? '' : scan.text.trim());
	if (!parts.length || !number) return null;
	const called = await calledNow(
		tx,
		parts.map((l) => l.itemId),
		number
	);
	const marks = called.map((m) => m.id);
	if (!marks.length) return null;
	// Named by its item, or by a number that only a part has.
	const made = scan.gtin ? [] : outputs.filter((l) => fits(l, number));
	if (made.length) {
		if (made.some((l) => l.id === hint)) return null;
		if (!parts.some((l) => l.id === hint))
			throw new Refused(
				`${number} may be ${made[0].itemName} or ${parts[0].itemName}. Click into the line that it is for, then scan it again.`
			);
	}
	const drafts = await read();
	const [output] = outputs;
	if (output.runMode !== 'unit') {
		const { line, row } = await pickFromScan(tx, order, scan, hint, drafts);
		return { line, row };
	}
	const stock = await onHand(
		tx,
		parts.map((l) => l.itemId),
		order.id,
		{ marks }
	);
	return intoUnit(number, order, output, parts, nearest(stock, order.place), drafts, await lastUnit(tx, order));
}

/** Does a number have the form of what is made? Without a form any number has. */
function fits(line: OrderLine, number: string): boolean {
	if (line.tracking === 'none') return false;
	const pattern = line.tracking.includes('serial') ? line.serialPattern : line.lotPattern;
	return !pattern || !('problem' in readBack(pattern.blocks, number));
}

/** What lies at the order's own place before what lies at its site, and that before the rest. */
function nearest(stock: readonly OnHand[], place: string | null): OnHand[] {
	const site = place?.split('/')[0];
	const far = (s: OnHand) => (s.place === place ? 0 : s.place.split('/')[0] === site ? 1 : 2);
	return stock.filter((s) => !s.transit).toSorted((a, b) => far(a) - far(b));
}

/** The unit that was scanned last into a sheet, itself or with a part of it. */
async function lastUnit(tx: Db, order: Order): Promise<string | null> {
	const [last] = await tx<{ unit: string | null }[]>`
		SELECT coalesce(s.after ->> 'unit', s.text) AS unit FROM scan s WHERE s.order_id = ${order.id} AND s.row_id IS NOT NULL AND s.undone_at IS NULL
		ORDER BY s.scanned_at DESC LIMIT 1`;
	return last?.unit ?? null;
}

function intoUnit(
	number: string,
	order: Order,
	output: OrderLine,
	parts: readonly OrderLine[],
	stock: readonly OnHand[],
	drafts: readonly DraftRow[],
	last: string | null
): PartScan {
	const [s] = stock;
	if (!s) throw new Refused(`${number} is nowhere on hand, so it cannot go in. Take another, or look where it is.`);
	const inside = drafts.find((d) => d.data.mark === s.mark && d.data.unit);
	if (s.serial && inside) throw new Refused(`${number} goes into ${inside.data.unit} already. Scan another part.`);
	const units = drafts.flatMap((d) =>
		d.lineId === output.id && d.data.serial ? expand(d.data.serial, d.data.count ?? 1, d.data.step) : []
	);
	const lines = parts.filter((l) => l.itemId === s.itemId);
	const has = (unit: string, l: OrderLine) =>
		total(drafts.filter((d) => d.lineId === l.id && d.data.unit === unit).map((d) => d.data.qty ?? '1'));
	const lacks = (unit: string) => lines.find((l) => less(has(unit, l), div(l.qty, output.qty)));
	const unit = [...units.filter((u) => u === last), ...units].find(lacks);
	if (!unit)
		throw new Refused(
			units.length
				? `Every ${output.itemName} in this sheet has its ${lines[0].itemName}. Scan the next ${output.itemName} first.`
				: `Scan the ${output.itemName} that ${number} goes into first, then its parts.`
		);
	const line = lacks(unit)!;
	const wants = rest(div(line.qty, output.qty), has(unit, line));
	const taken = total(
		drafts.filter((d) => d.data.mark === s.mark && d.data.place === s.place).map((d) => d.data.qty ?? '1')
	);
	const from = stock.find((x) => x.place !== s.place || less(taken, x.qty)) ?? s;
	const left = less(taken, from.qty) && from.place === s.place ? sub(from.qty, taken) : from.qty;
	const qty = s.serial ? '1' : least(wants, left);
	const named = `${s.serial ? 'Serial' : 'Lot'} ${number} from ${placeName(from.place)} for ${unit}`;
	return {
		line,
		row: {
			...{ id: '', before: null, version: 0, what: named },
			after: { mark: from.mark, place: from.place, qty, unit, scanned: '0' }
		}
	};
}
