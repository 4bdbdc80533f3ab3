import type { Db } from '../database/connect.ts';
import { less, rest, show, sub } from '../../core/quantity/quantity.ts';
import type { Day } from '../../core/dates/dates.ts';
import type { SheetLine, SheetState } from '../../core/sheet/sheet.ts';
import type { Order, OrderLine } from '../orders/orders.ts';
import type { DraftRow } from '../orders/drafts.ts';
import { checkRows, entered, type CheckedRow } from '../orders/rows.ts';
import type { Built } from '../orders/sheet.ts';
import { compareNotice } from './notice.ts';

/** A delivery: typed rows under each line, and the receipt that "Book in" would book. */
export async function inboundSheet(sql: Db, order: Order, drafts: DraftRow[], today: Day): Promise<Built> {
	const rows = await checkRows(sql, order.lines, drafts, today, true);
	const notice = await compareNotice(sql, order, rows);
	const lines = order.lines.map((l): SheetLine => {
		const mine = rows.filter((r) => r.lineId === l.id);
		const line = { ...bare(l), rows: mine.map(clean), entered: entered(mine), announced: notice?.lines.get(l.id) };
		const what = l.tracking.includes('serial')
			? (n: string) => (n === '1' ? 'serial' : 'serials')
			: () => (l.unit === 'each' ? '' : l.unit);
		if (less(line.entered, line.open)) {
			const gap = sub(line.open, line.entered);
			line.findings.push({ level: 'missing', message: `${show(gap)} ${what(gap)}`.trim() + ' missing' });
		} else if (less(line.open, line.entered))
			line.findings.push({
				level: 'reason',
				message: `${show(sub(line.entered, line.open))} more than ordered: say why, or take them out`
			});
		return line;
	});
	const goods = lines.some((l) => l.rows.length);
	const missing = gather(lines);
	const lineOf = new Map(order.lines.map((l) => [l.id, l]));
	return {
		sheet: {
			...head(order),
			notice: notice ? { name: notice.name, at: notice.at, by: notice.by } : undefined,
			lines,
			missing,
			ready: goods && !missing.some((m) => m.level === 'stop')
		},
		event: goods
			? {
					kind: 'receipt',
					movements: rows.flatMap((r) => movements(lineOf.get(r.lineId)!, r, '@supplier', order.place!))
				}
			: null,
		used: rows.map((r) => r.id)
	};
}

/** A row as movements: one for a lot, one for each serial. */
export function movements(line: OrderLine, r: CheckedRow, from: string, to: string, extra: object = {}) {
	const facts = { expiresOn: r.day, madeOn: r.madeOn || null, supplierLot: r.supplierLot || null };
	const base = { item: line.item, from, to, orderLine: line.id, ...extra };
	if (!r.serials.length) return [{ ...base, ...facts, lot: r.lot || null, qty: r.qty }];
	return r.serials.map((serial) => ({ ...base, ...facts, lot: r.lot || null, serial, qty: '1' }));
}

export const clean = ({ serials: _s, day: _d, lineId: _l, ...row }: CheckedRow) => row;

export const bare = (l: OrderLine): SheetLine => ({
	...{ id: l.id, no: l.no, role: l.role, item: l.item, itemName: l.itemName, unit: l.unit, decimals: l.decimals },
	...{ lotPattern: l.lotPattern?.code ?? null, serialPattern: l.serialPattern?.code ?? null },
	serialAsked: l.rule.serial,
	...{ tracking: l.tracking, expiry: l.expiry, qty: l.qty, done: l.done, open: rest(l.qty, l.done), entered: '0' },
	...{ rows: [], cells: [], now: null, leftOut: [], findings: [] }
});
export const head = (o: Order): Omit<SheetState, 'lines' | 'missing' | 'ready' | 'stamp' | 'events' | 'scans'> => ({
	...{ code: o.code, kind: o.kind, partnerName: o.partnerName, place: o.place, dueOn: o.dueOn, note: o.note },
	...{ closedAt: o.closedAt, unitRuns: false, started: [] }
});

/** Everything the foot bar says: stops first, then what wants a reason, then what stays open. */
export function gather(lines: SheetLine[]): SheetState['missing'] {
	const rank = { stop: 0, reason: 1, missing: 2, note: 3 };
	return lines
		.flatMap((l) => [
			...l.findings.map((f) => ({ line: l.no, level: f.level, message: f.message })),
			...l.rows.flatMap((r) => r.findings.map((f) => ({ line: l.no, level: f.level, message: f.message }))),
			...l.cells.flatMap((c) =>
				c.picks.flatMap((p) =>
					p.findings.map((f) => ({ line: l.no, level: f.level, message: `${p.number} ${f.message}` }))
				)
			)
		])
		.filter((m) => m.level !== 'note')
		.sort((a, b) => rank[a.level] - rank[b.level] || a.line - b.line);
}
