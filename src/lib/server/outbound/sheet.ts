import type { Db } from '../database/connect.ts';
import { amount, less, parseQty, show, sub, total } from '../../core/quantity/quantity.ts';
import { askExpiry, askFacts, fillCells, type Chosen } from '../../core/allocation/cells.ts';
import type { Facts } from '../../core/facts/fact.ts';
import type { Cell, SheetLine } from '../../core/sheet/sheet.ts';
import type { EventInput } from '../ledger/input.ts';
import type { Order, OrderLine } from '../orders/orders.ts';
import type { DraftRow } from '../orders/drafts.ts';
import type { Built, Moment } from '../orders/sheet.ts';
import { bare, clean, gather, head } from '../inbound/sheet.ts';
import { checkRows } from '../orders/rows.ts';
import { standing, type Standing } from '../stock/available.ts';

/** A shipment: suggested or chosen stock for each line, and the event that "Ship" would book. */
export async function outboundSheet(
	sql: Db,
	order: Order,
	drafts: DraftRow[],
	{ today, policy }: Moment
): Promise<Built> {
	const site = order.place?.split('/')[0] ?? null;
	const stock = await standing(sql, order.lines.map((l) => l.itemId), order.id, site); // prettier-ignore
	// Serials that are given only now: to pieces that lie here with a lot, or with no number at all.
	const late = order.lines.filter((l) => l.tracking.includes('serial')).map((l) => ({ ...l, tracking: 'serial' as const, expiry: 'not asked' as const, qty: l.qty })); // prettier-ignore
	const given = await checkRows(sql, late, drafts, { today, arriving: false, place: order.place, policy });
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
		askFacts(line.cells, l.facts, ofItem(stock, l));
		askExpiry(line.cells, l.expiry);
		line.leftOut = filled.leftOut;
		line.entered = picked(line.cells);
		if (less(line.open, line.entered) || less(line.open, need))
			line.findings.push({ level: policy['more than ordered'], message: `${show(less(line.entered, need) ? need : line.entered)} go, ${show(line.open)} are ordered: ${policy['more than ordered'] === 'reason' ? 'say why, or send less' : 'send less'}` }); // prettier-ignore
		const bareQty = total(unnumbered(l, line.cells).map((p) => p.qty));
		if (bareQty !== '0') {
			const mine = given.filter((r) => r.lineId === l.id);
			const have = String(mine.reduce((n, r) => n + r.serials.length, 0));
			line.rows = mine.map(clean);
			line.toNumber = bareQty;
			if (less(have, bareQty)) line.findings.push({ level: l.rule.serial === 'required' ? 'stop' : 'reason', message: `${show(sub(bareQty, have))} serials missing: they are given at shipment` }); // prettier-ignore
			if (less(bareQty, have)) line.findings.push({ level: 'stop', message: `${show(sub(have, bareQty))} more serials than pieces that go. Take them out` }); // prettier-ignore
		}
		const { short } = line.cells[0];
		if (short !== '0') line.findings.push({ level: 'missing', message: `${amount(short, l.unit)} short: ${show(line.entered)} can go, the rest stays ordered` }); // prettier-ignore
		else if (less(line.entered, line.open)) line.findings.push({ level: 'missing', message: `${show(line.entered)} of ${amount(line.open, l.unit)} go now` }); // prettier-ignore
		return line;
	});
	const missing = gather(lines);
	const runs: NonNullable<EventInput['runs']> = [];
	const moves = lines.flatMap((l) => {
		const line = order.lines.find((x) => x.id === l.id)!;
		const serials = given
			.filter((r) => r.lineId === l.id)
			.flatMap((r) => r.serials.map((serial) => ({ serial, facts: r.facts })));
		const bares = new Set(unnumbered(line, l.cells));
		return l.cells.flatMap((c) =>
			c.picks
				.filter((p) => p.qty !== '0')
				.flatMap((p): Movement[] => {
					const taken = bares.has(p) ? serials.splice(0, Number(p.qty)) : [];
					const rest = taken.length ? sub(p.qty, String(taken.length)) : p.qty;
					const ship = rest === '0' ? [] : [{ ...named(l, { ...p, qty: rest }), from: p.place, to: '@customer', orderLine: l.id }]; // prettier-ignore
					if (!taken.length) return ship;
					// What gets its number now goes through a run: used without, made with; then it goes.
					const run = `${order.code}/numbered-${taken[0].serial}`;
					runs.push({ code: run });
					const piece = (serial: string) => ({
						item: l.item,
						serial,
						lot: p.kind === 'lot' ? p.number : null,
						qty: '1'
					});
					return [
						{
							...named(l, { ...p, qty: String(taken.length) }),
							from: p.place,
							to: '@process',
							run,
							role: 'use' as const
						},
						...taken.map((s) => ({ ...piece(s.serial), from: '@process', to: p.place, run, role: 'make' as const })),
						...taken.map((s) => ({
							...piece(s.serial),
							facts: s.facts,
							from: p.place,
							to: '@customer',
							orderLine: l.id
						})),
						...ship
					];
				})
		);
	});
	return {
		sheet: { ...head(order), lines, missing, ready: moves.length > 0 && !missing.some((m) => m.level === 'stop') },
		event: moves.length ? { kind: 'shipment', runs, movements: moves } : null,
		used: drafts.map((d) => d.id)
	};
}

type Movement = NonNullable<EventInput['movements']>[number];
/** Picks of pieces that have no serial yet, where the shipment asks for one. */
const unnumbered = (line: OrderLine, cells: Cell[]) =>
	line.tracking.includes('serial') ? cells.flatMap((c) => c.picks.filter((p) => p.kind !== 'serial' && /^[1-9]\d*$/.test(p.qty))) : []; // prettier-ignore

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
				place: d.data.place!,
				expiryTyped: d.data.expiresOn?.trim() ?? '',
				facts: d.data.facts ?? {}
			};
			return 'qty' in q ? { ...base, qty: q.qty } : { ...base, qty: typed, problem: q.problem };
		});

export const picked = (cells: Cell[]) =>
	total(cells.flatMap((c) => c.picks.filter((p) => /^\d+(\.\d+)?$/.test(p.qty)).map((p) => p.qty)));

export const named = (
	line: { item: string },
	p: { kind: string; number: string; qty: string; facts?: Facts; expiryTyped?: string }
) => ({
	item: line.item,
	lot: p.kind === 'lot' ? p.number : null,
	serial: p.kind === 'serial' ? p.number : null,
	qty: p.qty,
	...(p.kind !== 'unmarked' && p.expiryTyped ? { expiresOn: p.expiryTyped } : {}),
	...(p.kind !== 'unmarked' && Object.values(p.facts ?? {}).some(Boolean) ? { facts: Object.fromEntries(Object.entries(p.facts!).filter(([, v]) => v)) } : {}) // prettier-ignore
});
