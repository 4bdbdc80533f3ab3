import type { Db } from '../database/connect.ts';
import { add, amount, div, less, mul, rest, sub } from '../../core/quantity/quantity.ts';
import { askExpiry, askFacts, fillCells } from '../../core/allocation/cells.ts';
import type { SheetLine } from '../../core/sheet/sheet.ts';
import type { EventInput } from '../ledger/input.ts';
import type { Order } from '../orders/orders.ts';
import type { DraftRow } from '../orders/drafts.ts';
import { checkRows, entered } from '../orders/rows.ts';
import type { Built, Moment } from '../orders/sheet.ts';
import { checkReleased, releasedFor } from '../numbering/released.ts';
import { bare, clean, gather, head, movements } from '../inbound/sheet.ts';
import { chosenOf, named, ofItem, picked } from '../outbound/sheet.ts';
import { standing } from '../stock/available.ts';

type Movement = NonNullable<EventInput['movements']>[number];

/**
 * A production order: numbers for what is made, and the stock that goes in; pooled for the whole order, or cell by
 * cell for each finished serial.
 */
export async function productionSheet(
	sql: Db,
	order: Order,
	drafts: DraftRow[],
	{ today, mode, policy }: Moment
): Promise<Built> {
	const output = order.lines.find((l) => l.role === 'output')!;
	const parts = order.lines.filter((l) => l.role === 'component');
	const units = output.runMode === 'unit';
	const started = units ? await startedUnits(sql, order.id) : [];
	const rows = await checkRows(sql, [output], drafts, { today, arriving: false, place: order.place, policy });
	const released = (await releasedFor(sql, order, drafts)).get(output.id);
	await checkReleased(sql, output, rows, policy['not released']);
	const serials = rows.flatMap((r) => r.serials);
	const out: SheetLine = { ...bare(output), rows: rows.map(clean), entered: entered(rows), released };
	const isStarted = new Set(started);

	if (less(out.open, out.entered)) out.findings.push({ level: policy['more than ordered'], message: `${amount(sub(out.entered, out.open), output.unit)} more than ordered${policy['more than ordered'] === 'reason' ? ': say why' : ''}` }); // prettier-ignore
	else if (less(out.entered, out.open)) out.findings.push({ level: 'missing', message: `${amount(sub(out.open, out.entered), output.unit)} still to make` }); // prettier-ignore
	if (units) {
		const wrong = serials.filter((s) => (mode === 'output' ? !isStarted.has(s) : isStarted.has(s)));
		if (wrong.length)
			out.findings.push({
				level: 'stop',
				message: mode === 'output'
					? `${wrong[0]} has no parts recorded. Choose “Use and output”, or record its parts first`
					: `the parts of ${wrong[0]} are recorded. Choose “Output only” to finish it`
			}); // prettier-ignore
	} else if (mode !== 'use' && !rows.length)
		out.findings.push({ level: 'missing', message: 'number of what is made missing' });

	const stock = await standing(sql, parts.map((l) => l.itemId), order.id); // prettier-ignore
	const lines = parts.map((l): SheetLine => {
		const line = bare(l);
		if (mode === 'output') return line;
		const per = div(l.qty, output.qty);
		const wanted = units
			? serials.map((unit) => ({ unit, need: per }))
			: [
					{
						unit: null,
						need: mode === 'use' || !rows.length ? line.open : rest(mul(per, add(out.done, out.entered)), l.done)
					}
				];
		const inSheet = new Set(wanted.map((w) => w.unit));
		const chosen = chosenOf(l, drafts).filter((c) => inSheet.has(c.unit));
		const filled = fillCells(wanted, chosen, ofItem(stock, l), today);
		line.cells = filled.cells;
		askFacts(line.cells, l.facts, ofItem(stock, l));
		askExpiry(line.cells, l.expiry);
		line.leftOut = filled.leftOut;
		line.entered = picked(line.cells);
		const short = line.cells.filter((c) => c.short !== '0');
		if (short.length)
			line.findings.push(
				units
					? {
							level: 'stop',
							message: `${l.itemName} is missing in ${short[0].unit}${short.length > 1 ? ` and ${short.length - 1} more` : ''}`
						}
					: mode === 'use'
						? { level: 'missing', message: `${amount(short[0].short, l.unit)} of ${l.itemName} still to use` }
						: {
								level: 'reason',
								message: `${amount(short[0].short, l.unit)} of ${l.itemName} less than the parts list asks: say why`
							}
			);
		return line;
	});

	const all = [out, ...lines].sort((a, b) => a.no - b.no);
	const missing = gather(all);
	const moves: Movement[] = [];
	const runs: NonNullable<EventInput['runs']> = [];
	const runOf = (unit: string | null) => (unit ? `${order.code}/${unit}` : order.code);
	if (mode !== 'output') {
		for (const l of lines)
			for (const c of l.cells)
				for (const p of c.picks.filter((x) => x.qty !== '0'))
					moves.push({
						...named(l, p),
						from: p.place,
						to: '@process',
						run: runOf(c.unit),
						role: 'use',
						orderLine: l.id
					});
	}
	if (mode !== 'use')
		for (const r of rows)
			for (const m of movements(output, r, '@process', order.place!, { role: 'make' }))
				moves.push({ ...m, run: runOf(units ? (m as { serial?: string }).serial! : null) } as Movement);
	if (units) for (const s of serials) runs.push({ code: runOf(s), unit: { item: output.item, serial: s } });
	else if (moves.length) runs.push({ code: order.code, planned: output.qty });
	const makes = mode !== 'use' && rows.length > 0;
	const uses = mode !== 'output' && lines.some((l) => l.entered !== '0');
	const enough = mode === 'both' ? makes : mode === 'use' ? uses && (!units || serials.length > 0) : makes;
	return {
		sheet: {
			...head(order),
			unitRuns: units,
			started,
			lines: all,
			missing,
			ready: enough && !missing.some((m) => m.level === 'stop')
		},
		event: enough ? { kind: makes ? 'output' : 'use', runs, movements: moves } : null,
		used: drafts.filter((d) => (mode === 'use' && !units ? d.lineId !== output.id : mode === 'output' ? d.lineId === output.id : true)).map((d) => d.id) // prettier-ignore
	};
}

/** Finished serials of an order whose parts are in and which are not out yet. */
async function startedUnits(sql: Db, orderId: string): Promise<string[]> {
	const rows = await sql<{ number: string }[]>`
		SELECT k.number FROM run r JOIN mark k ON k.id = r.unit_mark WHERE r.order_id = ${orderId}
			AND EXISTS (SELECT 1 FROM effective_movement m WHERE m.run_id = r.id AND m.role = 'use')
			AND NOT EXISTS (SELECT 1 FROM effective_movement m WHERE m.run_id = r.id AND m.role = 'make')
		ORDER BY k.number COLLATE natural_order`;
	return rows.map((r) => r.number);
}
