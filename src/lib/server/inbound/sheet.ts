import type { Db } from '../database/connect.ts';
import { less, rest, show, sub } from '../../core/quantity/quantity.ts';
import { compress, text } from '../../core/ranges/ranges.ts';
import type { Finding, SheetLine, SheetState } from '../../core/sheet/sheet.ts';
import type { Order, OrderLine } from '../orders/orders.ts';
import type { DraftRow } from '../orders/drafts.ts';
import { checkRows, entered, type CheckedRow } from '../orders/rows.ts';
import type { Built, Moment } from '../orders/sheet.ts';
import { checkReleased, releasedFor } from '../numbering/released.ts';
import { binsHolding } from '../stock/available.ts';
import { compareNotice } from './notice.ts';

/** A delivery: typed rows under each line, and the receipt that "Book in" would book. */
export async function inboundSheet(
	sql: Db,
	order: Order,
	drafts: DraftRow[],
	{ today, policy }: Moment
): Promise<Built> {
	const rows = await checkRows(sql, order.lines, drafts, { today, arriving: true, place: order.place, policy });
	for (const l of order.lines) await checkReleased(sql, l, rows.filter((r) => r.lineId === l.id), policy['not released']); // prettier-ignore
	const notice = await compareNotice(sql, order, rows, policy['not announced']);
	const [released, bins] = await Promise.all([releasedFor(sql, order, drafts), binsHolding(sql, order.lines.map((l) => l.itemId), order.place)]); // prettier-ignore
	const lines = order.lines.map((l): SheetLine => {
		const mine = rows.filter((r) => r.lineId === l.id);
		const line = {
			...bare(l),
			rows: mine.map(clean),
			entered: entered(mine),
			announced: notice?.lines.get(l.id),
			released: released.get(l.id),
			bins: bins(l.itemId)
		};
		const what = l.tracking.includes('serial')
			? (n: string) => (n === '1' ? 'serial' : 'serials')
			: () => (l.unit === 'each' ? '' : l.unit);
		if (less(line.entered, line.open)) {
			const gap = sub(line.open, line.entered);
			line.findings.push({ level: 'missing', message: `${show(gap)} ${what(gap)}`.trim() + ' missing' });
		} else if (less(line.open, line.entered))
			line.findings.push({
				level: policy['more than ordered'],
				message: `${show(sub(line.entered, line.open))} more than ordered: ${policy['more than ordered'] === 'reason' ? 'say why, or take them out' : 'take them out'}`
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
	const same = line.supplierNumber === 'ours' && from === '@supplier';
	const values = Object.entries(r.facts).filter(([code, v]) => v && line.facts.some((f) => f.code === code));
	const base = {
		...{ item: line.item, from, to: r.place || to, orderLine: line.id, lot: r.lot || null },
		...{ expiresOn: r.day, madeOn: r.madeOn || null, supplierLot: (same ? r.lot : r.supplierLot) || null },
		...(values.length ? { facts: Object.fromEntries(values) } : {}),
		...extra
	};
	if (!r.serials.length) return [{ ...base, qty: r.qty }];
	return r.serials.map((serial, i) => ({ ...base, serial, qty: '1', supplierSerial: (same ? serial : r.theirs[i]) ?? null })); // prettier-ignore
}

export const clean = ({ serials: _s, theirs: _t, day: _d, lineId: _l, ...row }: CheckedRow) => row;

export const bare = (l: OrderLine): SheetLine => ({
	...{ id: l.id, no: l.no, role: l.role, item: l.item, itemName: l.itemName, unit: l.unit, decimals: l.decimals },
	...{ lotPattern: l.lotPattern?.code ?? null, serialPattern: l.serialPattern?.code ?? null },
	...{ serialAsked: l.rule.serial, facts: l.facts, supplierNumber: l.supplierNumber, bins: [] },
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
			...alike(l),
			...folded(l)
		])
		.filter((m) => m.level !== 'note')
		.sort((a, b) => rank[a.level] - rank[b.level] || a.line - b.line);
}

/** Findings grouped by what they say, with whom each is about. */
function grouped<T>(list: { finding: Finding; about: T }[]) {
	const groups = new Map<string, { level: Finding['level']; message: string; about: T[] }>();
	for (const { finding: f, about } of list) {
		const key = `${f.level} ${f.message}`;
		const group = groups.get(key) ?? { level: f.level, message: f.message, about: [] };
		group.about.push(about);
		groups.set(key, group);
	}
	return [...groups.values()];
}
/** The findings of new numbers; those that say the same of several rows once, with how many. */
const alike = (l: SheetLine): SheetState['missing'] =>
	grouped(l.rows.flatMap((r) => r.findings.map((finding) => ({ finding, about: r.id })))).map((g) => ({ line: l.no, level: g.level, message: g.about.length > 1 ? `${g.message} (${g.about.length} rows)` : g.message })); // prettier-ignore
/** The findings of what is taken; those that say the same of many numbers in one sentence. */
const folded = (l: SheetLine): SheetState['missing'] =>
	grouped(l.cells.flatMap((c) => c.picks.flatMap((p) => p.findings.map((finding) => ({ finding, about: p.number }))))).map((g) => ({ line: l.no, level: g.level, message: `${compress(g.about).slice(0, 3).map(text).join(', ')}${g.about.length > 3 ? ` (${g.about.length} in all)` : ''} ${g.message}` })); // prettier-ignore
