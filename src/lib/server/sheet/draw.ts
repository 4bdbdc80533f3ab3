import { grouped } from '../../core/quantity/sign.ts';
import { z } from 'zod';
import { transaction, type Sql, type Tx } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { less, rest, sub } from '../../core/quantity/quantity.ts';
import { compress } from '../../core/ranges/ranges.ts';
import { id, line as oneLine } from '../../core/text/input.ts';
import type { Order, OrderLine } from '../document/orders.ts';
import { contextOf, draw, MOST_DRAWN, type Wanted } from '../numbering/draw.ts';
import { releasedFor } from '../numbering/released.ts';
import { parse } from '../parse.ts';
import { insertRows, lockSheet, readDrafts, rowData, setField, type DraftRow, type RowData } from './drafts.ts';
import { notify } from './live.ts';

/** Numbers to draw into a line, as parsed. */
export const drawInput = z.strictObject({
	/** id of the line */
	line: id,
	count: z
		.number()
		.int()
		.min(1)
		.max(MOST_DRAWN, { error: () => `One draw gives at most ${grouped(MOST_DRAWN)} numbers.` }),
	/** the lot that new serials belong to; drawn too when empty and the item has a pattern for lots */
	lot: oneLine(60, 0).optional(),
	/** for a lot: how much of it, and when it expires; as typed */
	qty: rowData.shape.qty,
	expiresOn: rowData.shape.expiresOn,
	/** what else stands in the fields: it goes with every row that is drawn */
	supplierLot: rowData.shape.supplierLot,
	place: rowData.shape.place,
	facts: rowData.shape.facts,
	/** draws one lot, for the serials in the sheet that have none */
	group: z.literal(true).optional()
});
type Want = z.output<typeof drawInput>;

/**
 * Draws the next numbers for a line and puts them into its sheet, in one transaction: what was drawn is in the sheet,
 * or was not drawn.
 * @param now when it is drawn: the day there goes into the number
 * @returns the ids of the new rows
 */
export async function drawRows(
	sql: Sql,
	by: string,
	order: Order,
	input: unknown,
	now = new Date()
): Promise<string[]> {
	const want = parse(drawInput, input);
	const line = order.lines.find((l) => l.id === want.line);
	if (!line) throw new Problem('This line is not part of the order any more. Reload the page.', 409);
	const serials = line.tracking.includes('serial');
	const kind = serials && !want.group ? 'serial' : 'lot';
	const pattern = kind === 'serial' ? line.serialPattern : line.lotPattern;
	if (!pattern)
		throw new Problem(
			`${line.itemName} has no number pattern for its ${kind}s. Choose one in Setup, Items, or type the numbers.`
		);
	return transaction(sql, async (tx) => {
		await tx`SELECT 1 FROM orders WHERE id = ${order.id} FOR SHARE`;
		const wanted = {
			item: { id: line.itemId, code: line.item },
			context: contextOf(line.item, order, now),
			order: order.id
		};
		await lockSheet(tx, order.id);
		const drafts = await readDrafts(tx, order.id);
		if (want.group) return group(tx, by, order, line, wanted, drafts);
		let lot = want.lot || undefined;
		if (serials && line.tracking.includes('lot') && !lot) {
			if (!line.lotPattern)
				throw new Problem([
					{ message: `${line.itemName} needs a lot too. Type it, then take the serials.`, at: 'lot' }
				]);
			[lot] = await draw(tx, by, { ...wanted, pattern: line.lotPattern, kind: 'lot', count: 1 });
		}
		// What was drawn when the order was released comes first.
		const waiting = (await releasedFor(tx, order, drafts, line.id)).get(line.id)?.numbers ?? [];
		const numbers = waiting.slice(0, want.count);
		const more = want.count - numbers.length;
		if (more) numbers.push(...(await draw(tx, by, { ...wanted, pattern, kind, count: more })));
		const rows = serials
			? compress(numbers).map((r): RowData => ({
					...(lot ? { lot } : {}),
					serial: r.first,
					count: r.count,
					...alongside(want)
				}))
			: shares(line, drafts, numbers.length, want.qty).map((qty, i): RowData => ({
					lot: numbers[i],
					qty,
					...alongside(want)
				}));
		const ids = await insertRows(
			tx,
			by,
			order.id,
			rows.map((data) => ({ lineId: line.id, data }))
		);
		await notify(tx, order.code);
		return ids;
	});
}

/** What stands in the other fields, for every row that is drawn. */
const alongside = ({ supplierLot, place, facts, expiresOn }: Want): RowData => ({
	...(expiresOn ? { expiresOn } : {}),
	...(supplierLot ? { supplierLot } : {}),
	...(place ? { place } : {}),
	...(facts && Object.keys(facts).length ? { facts } : {})
});

/** Draws a lot and puts the serials of a line that have none into it. @returns the ids of the rows it changed */
async function group(
	tx: Tx,
	by: string,
	order: Order,
	line: OrderLine,
	wanted: Omit<Wanted, 'pattern' | 'kind' | 'count'>,
	drafts: readonly DraftRow[]
): Promise<string[]> {
	const alone = drafts.filter((d) => d.lineId === line.id && d.data.serial && !d.data.lot).map((d) => d.id);
	if (!alone.length) throw new Problem('Every serial of this line has a lot already.', 409);
	const [lot] = await draw(tx, by, { ...wanted, pattern: line.lotPattern!, kind: 'lot', count: 1 });
	await setField(tx, by, alone, { lot });
	await notify(tx, order.code);
	return alone;
}

/** The first lot takes what was typed, or what is still open; further ones are empty, to be typed. */
function shares(line: OrderLine, drafts: readonly DraftRow[], count: number, typed?: string): string[] {
	let open = less(line.done, line.qty) ? sub(line.qty, line.done) : '0';
	for (const d of drafts)
		if (d.lineId === line.id && /^\d+(\.\d+)?$/.test(d.data.qty ?? '')) open = rest(open, d.data.qty!);
	return Array.from({ length: count }, (_, i) => (i ? '' : typed || (open === '0' ? '' : open)));
}
