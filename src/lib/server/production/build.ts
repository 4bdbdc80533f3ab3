import { enteredIn, pickedIn } from '../../core/sheet/entered.ts';
import type { Db } from '../database/connect.ts';
import type { Terms } from '../../core/allocation/allocate.ts';
import { fillCells } from '../../core/allocation/cells.ts';
import {
	moreThanOrdered,
	partShort,
	stillOpen,
	unitNotStarted,
	unitAtStation,
	unitShort,
	unitStarted
} from '../../core/checks/catalogue.ts';
import { add, amount, div, less, mul, rest, sub } from '../../core/quantity/quantity.ts';
import type { EventInput } from '../../core/ledger/input.ts';
import type { About } from '../../core/checks/check.ts';
import { expiring, keepEarliest, workedOut, type Expiring } from '../../core/checks/movements.ts';
import { group } from '../../core/group/group.ts';
import { parseDay, type Day } from '../../core/dates/dates.ts';
import type { Mode, PickRow, SheetLine, SheetRow } from '../../core/sheet/sheet.ts';
import { unfinishedUnits, type OrderLine } from '../document/orders.ts';
import { onHand, type OnHand } from '../marks/onhand.ts';
import { termsFor } from '../marks/terms.ts';
import { checkReleased, releasedFor } from '../numbering/released.ts';
import type { Built, BuildInput } from '../sheet/build.ts';
import type { DraftRow } from '../sheet/drafts.ts';
import { atLine, sheetLine, type Move, type SheetFinding } from '../sheet/lines.ts';
import { chosenFor, namePicks, pickFindings, pickMoves, stockOf } from '../sheet/picks.ts';
import { leftOver } from './leftover.ts';
import { placeRows, readRows, rowMoves, type ReadRow, type ReadRows } from '../sheet/rows.ts';

/**
 * A production order: numbers for what is made, and the stock that goes in; pooled for the whole order, or cell by
 * cell for each finished serial.
 */
export async function buildProduction(sql: Db, given: BuildInput): Promise<Built> {
	const { order, drafts, today, mode, policy } = given;
	const output = order.lines.find((l) => l.role === 'output')!;
	const parts = order.lines.filter((l) => l.role === 'component');
	const beside = order.lines.filter((l) => l.role === 'byproduct');
	const brought = new Set([output, ...beside].map((l) => l.id));
	const units = output.runMode === 'unit';
	const [started, atStations, read, releasedNumbers, stock, terms, left] = await Promise.all([
		units ? startedUnits(sql, order.id) : [],
		units ? unitsAtStations(sql, order.id) : new Set<string>(),
		readRows(sql, [output, ...beside], drafts, { today, arriving: false, place: order.place }),
		releasedFor(sql, order, drafts),
		given.alone ??
			onHand(
				sql,
				parts.map((l) => l.itemId),
				order.id
			),
		termsFor(
			sql,
			parts.map((l) => l.itemId),
			{ place: order.place, customer: null, purpose: 'use' }
		),
		units ? undefined : leftOver(sql, order)
	]);
	const rows = read.rows.filter((r) => r.lineId === output.id);
	const serials = rows.flatMap((r) => r.serials);
	const said: SheetFinding[] = [];
	const out = { ...sheetLine(output), released: releasedNumbers.get(output.id) };
	const placed = placeRows(out, read);
	said.push(...placed.said);
	const besides = beside.map((l) => placeBeside(l, read, releasedNumbers.get(l.id), mode, said));
	const targets = [{ line: out, shown: placed.shown }, ...besides];
	for (const f of await checkReleased(sql, [output, ...beside], read.rows, policy))
		for (const { line, shown } of targets)
			if (shown.has(f.row)) said.push({ line, of: shown.get(f.row)!, found: f.found });
	if (less(out.open, out.entered)) {
		const what = `${amount(sub(out.entered, out.open), output.unit)} more than ordered`;
		said.push(atLine(out, moreThanOrdered, { what, out: 'remove them' }, policy[moreThanOrdered.code]));
	} else if (less(out.entered, out.open))
		said.push(atLine(out, stillOpen, { what: `${amount(sub(out.open, out.entered), output.unit)} still to make` }));
	const unfinished = started.filter((s) => !serials.includes(s));
	if (out.open === '0' && unfinished.length)
		said.push(atLine(out, stillOpen, { what: `${notFinished(unfinished)}. The order stays open until then` }));
	if (units) {
		const isStarted = new Set(started);
		const wrong = serials.find((s) => isStarted.has(s) !== (mode === 'output'));
		if (wrong) said.push(atLine(out, mode === 'output' ? unitNotStarted : unitStarted, { unit: wrong }));
		const away = serials.find((s) => atStations.has(s));
		if (away) said.push(atLine(out, unitAtStation, { unit: away }));
	} else if (mode !== 'use' && !rows.length)
		said.push(atLine(out, stillOpen, { what: 'number of what is made missing' }));

	const lines = parts.map((l) =>
		partLine(
			{ ...given, output, serials, units, made: enteredIn(rows), done: out.done, terms: terms(l.itemId) },
			l,
			stockOf(stock, l),
			said
		)
	);
	await namePicks(sql, lines, new Map(parts.map((l) => [l.id, l])));

	const runOf = (unit: string | null) => (unit ? `${order.code}/${unit}` : order.code);
	const uses =
		mode === 'output'
			? []
			: lines.flatMap((line) => pickMoves(line, '@process', (cell) => ({ run: runOf(cell.unit), role: 'use' })));
	const makes =
		mode === 'use'
			? []
			: rows.flatMap((r) =>
					rowMoves(
						output,
						{ line: out, shown: placed.shown },
						r,
						{ from: '@process', to: order.place!, role: 'make' },
						(serial) => runOf(units ? serial : null)
					)
				);
	const makesBeside =
		mode === 'use'
			? []
			: besides.flatMap(({ of, line, shown }) =>
					[...shown.keys()].flatMap((r) =>
						rowMoves(of, { line, shown }, r, { from: '@process', to: order.place!, role: 'make' }, () => order.code)
					)
				);
	for (const { of, shown } of [{ of: output, shown: placed.shown }, ...besides]) {
		if (of.expiryFrom === 'life') continue;
		const going =
			mode === 'output'
				? []
				: lines.flatMap((l) => l.cells.flatMap((c) => c.picks.map((pick) => ({ run: runOf(c.unit), pick }))));
		const all = [...makes, ...makesBeside];
		await dateByParts(sql, { given, output: of, rows: [...shown.keys()], shown, uses: going, makes: all });
	}
	const moves = [...uses, ...makes, ...makesBeside];
	const runs: NonNullable<EventInput['runs']> = units
		? serials.map((serial) => ({ code: runOf(serial), unit: { item: output.item, serial } }))
		: moves.length
			? [{ code: order.code, planned: output.qty }]
			: [];
	const enough = mode === 'use' ? uses.length > 0 && (!units || serials.length > 0) : read.rows.length > 0;
	// What this press leaves for the next one stays in the sheet: numbers of what is made, or what goes in.
	// So do the parts of units that are put together at a station.
	const inSheet = new Set<string | undefined>(serials);
	const stays = ({ lineId, data }: DraftRow) =>
		(units && data.unit && !inSheet.has(data.unit)) ||
		(mode === 'use' && !units ? brought.has(lineId) : mode === 'output' && !brought.has(lineId));
	return {
		lines: [out, ...besides.map((b) => b.line), ...lines].sort((a, b) => a.no - b.no),
		shows: { unitRuns: units, started, atStations: atStations.size, leftOver: left },
		said,
		kind: read.rows.length && mode !== 'use' ? 'output' : 'use',
		runs,
		moves,
		enough,
		used: drafts.filter((d) => !stays(d)).map((d) => d.id)
	};
}

/** What comes out beside what is made: as much as there is, whatever was expected. */
function placeBeside(of: OrderLine, read: ReadRows, released: SheetLine['released'], mode: Mode, said: SheetFinding[]) {
	const line = { ...sheetLine(of), released };
	const { said: form, shown } = placeRows(line, read);
	said.push(...form);
	if (mode !== 'use' && less(line.entered, line.open))
		said.push(atLine(line, stillOpen, { what: `${amount(sub(line.open, line.entered), of.unit)} still to come` }));
	return { of, line, shown };
}

interface Dating {
	given: BuildInput;
	output: OrderLine;
	rows: readonly ReadRow[];
	shown: ReadonlyMap<ReadRow, SheetRow>;
	/** what is picked for each run */
	uses: readonly { run: string; pick: PickRow }[];
	makes: readonly Move[];
}
/** Dates what is made by what goes into it, in this press or before: where nobody typed a date, and none is recorded. */
async function dateByParts(sql: Db, { given, output, rows, shown, uses, makes }: Dating): Promise<void> {
	const { order, today } = given;
	const first = new Map<string, Expiring>();
	const before = await sql<(About & { run: string; on: Day })[]>`
		SELECT DISTINCT ON (r.id) r.code AS run, k.kind, k.number, k.expires_on AS on FROM run r JOIN effective_movement m ON m.run_id = r.id AND m.role = 'use'
		JOIN mark_now k ON k.id = m.mark_id AND k.expires_on IS NOT NULL WHERE r.order_id = ${order.id} ORDER BY r.id, k.expires_on`;
	for (const b of before) keepEarliest(first, b.run, expiring(b, b.on));
	for (const { run, pick } of uses) keepEarliest(first, run, expiring(pick, pick.expiresOn));
	const byRow = group([...makes], (m) => m.of);
	for (const row of rows) {
		if (row.recorded || (row.expiresOn && !row.expiryWorkedOut)) continue;
		const madeOn = parseDay(row.madeOn);
		const dated = (byRow.get(shown.get(row)!) ?? []).map((m) => {
			const e = (m.movement.run && first.get(m.movement.run)) || null;
			const worked = workedOut(output, 'day' in madeOn ? madeOn.day : null, today, false, e);
			m.movement.expiresOn = worked?.day ?? null;
			return worked;
		});
		const [soon] = dated.flatMap((d) => d ?? []).sort((a, b) => (a.day < b.day ? -1 : 1));
		const what = { expiresOn: soon?.day ?? '', expiryWorkedOut: !!soon, expiryFrom: soon?.ground ?? '' };
		Object.assign(row, { day: soon?.day ?? null, ...what });
		Object.assign(shown.get(row)!, what);
	}
}

interface Making extends BuildInput {
	output: OrderLine;
	serials: string[];
	units: boolean;
	/** entered now, and booked before */
	made: string;
	done: string;
	terms: Terms;
}
/** What goes in of one component: a cell for the whole order, or one for each unit. */
function partLine(making: Making, l: OrderLine, stock: OnHand[], said: SheetFinding[]): SheetLine {
	const { output, serials, units, mode, drafts, today, made, done, terms } = making;
	const line = sheetLine(l);
	if (mode === 'output') return line;
	const per = div(l.qty, output.qty);
	const all = mode === 'use' || made === '0' ? line.open : rest(mul(per, add(done, made)), l.done);
	const wanted = units ? serials.map((unit) => ({ unit, need: per })) : [{ unit: null, need: all }];
	const inSheet = new Set<string | null>(wanted.map((w) => w.unit));
	const chosen = chosenFor(l, drafts).filter((c) => inSheet.has(c.unit));
	// Which serial went into which unit only a person or a scanner can say; the sheet names what is at hand.
	const filled = fillCells(wanted, chosen, stock, today, {
		suggests: (s) => !units || s.kind !== 'serial',
		rest: false,
		terms,
		line: l.id
	});
	line.cells = filled.cells;
	line.leftOut = filled.leftOut;
	line.entered = pickedIn(line.cells);
	said.push(...pickFindings(line, chosen, stock));
	const short = line.cells.filter((c) => c.short !== '0');
	if (!short.length) return line;
	const lacks = amount(short[0].short, l.unit);
	if (units) said.push(atLine(line, unitShort, { name: l.itemName, unit: short[0].unit!, more: short.length - 1 }));
	else if (mode === 'use') said.push(atLine(line, stillOpen, { what: `${lacks} of ${l.itemName} still to use` }));
	else said.push(atLine(line, partShort, { name: l.itemName, amount: lacks }));
	return line;
}

/** Units of an order that somebody is at: at stations, or with their parts in and not finished. */
export async function begun(sql: Db, order: { id: string }): Promise<string | null> {
	const [[started], { size }] = await Promise.all([startedUnits(sql, order.id), unitsAtStations(sql, order.id)]);
	if (size)
		return `${size} ${size === 1 ? 'unit of it is' : 'units of it are'} being put together at stations. Book them in the review, or take their parts out, first.`;
	return started ? `${notFinished([started])}, first.` : null;
}
const notFinished = ([first, ...more]: readonly string[]) =>
	`${first}${more.length ? ` and ${more.length} more` : ''} ${more.length ? 'have their parts and are' : 'has its parts and is'} not finished. Finish ${more.length ? 'them' : 'it'}, or undo the use of ${more.length ? 'their' : 'its'} parts`;
/** Finished serials of an order whose parts are in and which are not out yet. */
async function startedUnits(sql: Db, orderId: string): Promise<string[]> {
	const rows = await sql<{ number: string }[]>`
		SELECT k.number FROM ${unfinishedUnits(sql, orderId)} JOIN mark k ON k.id = r.unit_mark
		ORDER BY k.number COLLATE natural_order`;
	return rows.map((r) => r.number);
}
/** Finished serials of an order that are put together at stations, not booked yet. */
async function unitsAtStations(sql: Db, orderId: string): Promise<Set<string>> {
	const rows = await sql<{ serial: string }[]>`SELECT serial FROM unit_work WHERE order_id = ${orderId}`;
	return new Set(rows.map((r) => r.serial));
}
