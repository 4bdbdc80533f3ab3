import type { Db } from '../database/connect.ts';
import { amount, less, parseQty, show, total } from '../../core/quantity/quantity.ts';
import type { Day } from '../../core/dates/dates.ts';
import { fillCells, type Chosen } from '../../core/allocation/cells.ts';
import type { Cell, SheetLine } from '../../core/sheet/sheet.ts';
import type { Order, OrderLine } from '../orders/orders.ts';
import type { DraftRow } from '../orders/drafts.ts';
import type { Built } from '../orders/sheet.ts';
import { bare, gather, head } from '../inbound/sheet.ts';
import { standing, type Standing } from '../stock/available.ts';

/** A shipment: suggested or chosen stock for each line, and the event that "Ship" would book. */
export async function outboundSheet(sql: Db, order: Order, drafts: DraftRow[], today: Day): Promise<Built> {
	const site = order.place?.split('/')[0] ?? null;
	const stock = await standing(sql, order.lines.map((l) => l.itemId), order.id, site); // prettier-ignore
	const lines = order.lines.map((l): SheetLine => {
		const line = bare(l);
		const nowRow = drafts.find((d) => d.lineId === l.id && d.data.now !== undefined);
		let need = line.open;
		if (nowRow) {
			line.now = { id: nowRow.id, version: nowRow.version, qty: nowRow.data.now! };
			const q = nowRow.data.now === '0' ? { qty: '0' } : parseQty(nowRow.data.now!, l.decimals, l.unit);
			if ('problem' in q) line.findings.push({ level: 'stop', message: q.problem });
			else need = q.qty;
		}
		const filled = fillCells([{ unit: null, need }], chosenOf(l, drafts), ofItem(stock, l), today);
		line.cells = filled.cells;
		line.leftOut = filled.leftOut;
		line.entered = picked(line.cells);
		if (less(line.open, line.entered) || less(line.open, need))
			line.findings.push({ level: 'reason', message: `${show(less(line.entered, need) ? need : line.entered)} go, ${show(line.open)} are ordered: say why, or send less` }); // prettier-ignore
		const { short } = line.cells[0];
		if (short !== '0') line.findings.push({ level: 'missing', message: `${amount(short, l.unit)} short: ${show(line.entered)} can go, the rest stays ordered` }); // prettier-ignore
		else if (less(line.entered, line.open)) line.findings.push({ level: 'missing', message: `${show(line.entered)} of ${amount(line.open, l.unit)} go now` }); // prettier-ignore
		return line;
	});
	const missing = gather(lines);
	const moves = lines.flatMap((l) => l.cells.flatMap((c) => c.picks.filter((p) => p.qty !== '0').map((p) => ({ ...named(l, p), from: p.place, to: '@customer', orderLine: l.id })))); // prettier-ignore
	return {
		sheet: { ...head(order), lines, missing, ready: moves.length > 0 && !missing.some((m) => m.level === 'stop') },
		event: moves.length ? { kind: 'shipment', movements: moves } : null,
		used: drafts.map((d) => d.id)
	};
}

export const ofItem = (stock: readonly Standing[], line: OrderLine) => stock.filter((s) => s.itemId === line.itemId);

/** What was picked by hand for a line; a quantity that cannot be read is kept and said. */
export const chosenOf = (line: OrderLine, drafts: DraftRow[]): Chosen[] =>
	drafts
		.filter((d) => d.lineId === line.id && d.data.mark)
		.map((d) => {
			const typed = d.data.qty ?? '1';
			const q = typed === '0' ? { qty: '0' } : parseQty(typed, line.decimals, line.unit);
			const base = {
				id: d.id,
				version: d.version,
				unit: d.data.unit ?? null,
				mark: d.data.mark!,
				place: d.data.place!
			};
			return 'qty' in q ? { ...base, qty: q.qty } : { ...base, qty: typed, problem: q.problem };
		});

export const picked = (cells: Cell[]) =>
	total(cells.flatMap((c) => c.picks.filter((p) => /^\d+(\.\d+)?$/.test(p.qty)).map((p) => p.qty)));

export const named = (line: { item: string }, p: { kind: string; number: string; qty: string }) => ({
	item: line.item,
	lot: p.kind === 'lot' ? p.number : null,
	serial: p.kind === 'serial' ? p.number : null,
	qty: p.qty
});
