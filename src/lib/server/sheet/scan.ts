import { grouped } from '../../core/quantity/sign.ts';
import { z } from 'zod';
import { transaction, type Db, type Sql, type Tx } from '../database/connect.ts';
import { readScan, type Scan } from '../../core/codes/scan.ts';
import { documentKind } from '../../core/document/kinds.ts';
import { readBack } from '../../core/numbering/pattern.ts';
import { Problem } from '../../core/problem/problem.ts';
import type { Mode, SheetState } from '../../core/sheet/sheet.ts';
import { add, amount, isSome, less, sub, total } from '../../core/quantity/quantity.ts';
import { positionIn, Positions } from '../../core/ranges/positions.ts';
import { next } from '../../core/ranges/ranges.ts';
import { id, line as oneLine, scanText } from '../../core/text/input.ts';
import { builders } from '../builders.ts';
import { getOrder, type Order, type OrderLine } from '../document/orders.ts';
import type { OnHand } from '../marks/onhand.ts';
import { calledNow } from '../marks/called.ts';
import { contextOf, draw } from '../numbering/draw.ts';
import { parse } from '../parse.ts';
import { bringsNumbers } from './rows.ts';
import {
	changeRow,
	enteredIn,
	insertRows,
	lockSheet,
	putBack,
	readDrafts,
	readDraftsUpTo,
	readNear,
	type DraftRow,
	type RowData
} from './drafts.ts';
import { notify } from './live.ts';
import { knownScan, logScan } from './scanlog.ts';
import { Refused, type Placed } from './placed.ts';
import type { ScanSource } from './build.ts';
import { partFor } from './partscan.ts';
import { namedBy, pickFromScan } from './scanpick.ts';
import { LONG } from '../../core/sheet/sent.ts';
import { isLong } from './sent.ts';
import { sheetWithin } from './state.ts';
import { StockThere } from './stockthere.ts';

/** A scan, as parsed. */
export const scanInput = z.strictObject({
	/** made by the browser, so that sending twice takes it once */
	id: z.uuid(),
	text: scanText,
	/** where the cursor stands: the line, and the lot typed there */
	lineId: id.nullish(),
	lot: oneLine(60, 0).nullish()
});
/** What a scan did. */
export interface Taken {
	taken: boolean;
	said: string;
	/** a lot that serials to come belong to: for the lot field of that line */
	hold?: { lineId: string; lot: string; expiresOn?: string };
	/** rows that a pallet's code entered */
	added?: string[];
	/** the row that it made or changed */
	changed?: string;
}
/** A sheet as it was built to check what was scanned into it. */
type BuiltSheet = Omit<SheetState, 'events' | 'scans'>;
/** What a scan did, with its row and its sheet. */
interface Done extends Taken {
	row: Placed | null;
	sheet?: BuiltSheet;
}
/**
 * Puts a scan where it belongs in the sheet of a delivery or of what is made: the line by the item in the code, by the
 * cursor, or by the pattern that the number fits; the row by its lot, or as the next of a run. Whatever comes of it
 * is kept in the scan log.
 * @returns what it did, and the sheet as it leaves it: null where all of that was not built to check it, or another mode of it
 *   is shown
 */
export async function scanInto(
	sql: Sql,
	by: string,
	order: Order,
	input: unknown,
	mode: Mode = 'both'
): Promise<{ scan: Taken; sheet: BuiltSheet | null }> {
	const given = parse(scanInput, input);
	const known = await knownScan(sql, order.id, given);
	if (known) return { scan: known, sheet: null };
	const keep = (tx: Db, taken: boolean, said: string, row: Placed | null = null) =>
		logScan(tx, by, order, { id: given.id, text: given.text, taken, said, row });
	try {
		const scan = readScan(given.text, new Date().getFullYear());
		if ('problem' in scan) throw new Refused(scan.problem);
		return await transaction(sql, async (tx) => {
			await lockSheet(tx, order.id);
			const taken =
				scan.sscc && !scan.gtin
					? await takePallet(tx, by, order, scan.sscc)
					: await takeNumber(tx, by, order, scan, given, mode);
			await keep(tx, true, taken.said, taken.row);
			const { row, sheet, ...did } = taken;
			return { scan: row ? { ...did, changed: row.id } : did, sheet: (mode === 'both' && sheet) || null };
		});
	} catch (e) {
		if (!(e instanceof Refused)) throw e;
		await keep(sql, false, e.message);
		return { scan: { taken: false, said: e.message }, sheet: null };
	}
}

/** Enters what is announced on a pallet. */
async function takePallet(tx: Tx, by: string, order: Order, sscc: string): Promise<Done> {
	const { enterPallet } = builders[order.kind];
	if (!enterPallet)
		throw new Refused(
			`${sscc} is a pallet’s number, and nothing comes on pallets here. Scan the label of a lot or serial.`
		);
	const { ids, numbers } = await enterPallet(tx, by, order, sscc).catch((e) => {
		throw e instanceof Problem ? new Refused(e.message) : e;
	});
	if (!numbers) throw new Refused(`All of pallet ${sscc} is in the sheet already.`);
	return {
		taken: true,
		said: `Pallet ${sscc}: ${grouped(numbers)} announced ${numbers === 1 ? 'number' : 'numbers'} entered`,
		added: ids,
		row: null
	};
}

/** Enters a lot or serial, or holds a lot for the serials to come. */
async function takeNumber(
	tx: Tx,
	by: string,
	order: Order,
	scan: Scan,
	given: z.output<typeof scanInput>,
	mode: Mode
): Promise<Done> {
	const few = await readDraftsUpTo(tx, order.id, LONG);
	const long = !few || isLong(order, few.length);
	const all = async () => few ?? (await readDrafts(tx, order.id));
	const number = scan.serial ?? scan.lot ?? (scan.coded ? '' : scan.text.trim());
	if (documentKind(order.kind).scans === 'stock') {
		const takes = (await builders[order.kind].takes?.(tx, order, mode, { number, gtin: scan.gtin })) ?? null;
		const whole = documentKind(order.kind).lines === 'scanned' && takes ? await withLine(tx, order, takes) : order;
		const items = order.lines.map((l) => l.itemId);
		const called = takes ? [] : await calledNow(tx, items, number);
		// A serial is taken as one; of a lot it matters what else of it goes.
		const alone = long && called.length > 0 && called.every((m) => m.kind === 'serial');
		const marks = called.map((m) => m.id);
		const drafts = alone ? await readNear(tx, order.id, { marks }) : await all();
		// Its sheet reads all that stands there anyway, to see what the scan comes to.
		const stock = new StockThere(tx, whole);
		const there = alone || takes ? {} : { stock };
		const picked = await pickFromScan(tx, whole, scan, given.lineId ?? null, drafts, { takes, marks, ...there });
		return entered(tx, by, whole, picked.line, picked.row, alone ? picked.stock : null, stock);
	}
	if (order.lines.some((l) => l.role === 'component')) {
		const part = await partFor(tx, order, scan, given.lineId ?? null, all);
		if (part) return entered(tx, by, order, part.line, part.row, null);
	}
	const line = await lineFor(tx, order, scan, given.lineId ?? null);
	if (line.tracking === 'lot and serial' && !scan.serial && scan.coded) {
		if (!scan.lot)
			throw new Refused(`The code names ${line.itemName} without lot or serial. Scan the label with its number.`);
		const said = `Lot ${scan.lot} for the serials to come, line ${line.no}`;
		return { taken: true, said, hold: { lineId: line.id, lot: scan.lot, expiresOn: scan.expiresOn }, row: null };
	}
	const near = long && line.tracking.includes('serial');
	const drafts = near ? await readNear(tx, order.id, { serial: scan.serial ?? number, lot: scan.lot }) : await all();
	const row = place(line, await drawOwnNumbers(tx, by, order, line, scan, drafts), drafts, given.lot || null);
	return entered(tx, by, order, line, row, near ? [] : null);
}

/** An order with a line for what was scanned: its own, or one that is added now. */
async function withLine(tx: Tx, order: Order, takes: ScanSource): Promise<Order> {
	const named = namedBy(takes);
	if (!named.length || named.some((s) => order.lines.some((l) => l.itemId === s.itemId))) return order;
	await tx`INSERT INTO order_line (order_id, no, role, item_id, qty, scanned)
		SELECT ${order.id}, coalesce(max(no), 0) + 1, ${documentKind(order.kind).line.role}, ${named[0].itemId}, 1, true FROM order_line WHERE order_id = ${order.id}`;
	return (await getOrder(tx, order.code))!;
}

/**
 * Keeps the row of a scan, and says what it came to.
 * @param alone of a long sheet, what stands there of it: only what is wrong with the number itself is looked for, the whole is
 *   checked behind it
 * @param stock what stands there, where it was read already
 */
async function entered(
	tx: Tx,
	by: string,
	order: Order,
	line: OrderLine,
	row: Placed,
	alone: readonly OnHand[] | null,
	stock?: StockThere
): Promise<Done> {
	await write(tx, by, order, line, row);
	// What the code does not say is typed after it; what is wrong with it makes the scan a wrong one.
	const own = { id: row.id, data: row.alone ?? row.after };
	const rows = [...(row.same ?? []), own].map((r): DraftRow => ({ ...r, lineId: line.id, version: 1, by }));
	const [sheet, whole] = await Promise.all([
		sheetWithin(tx, order, 'both', alone ? { only: { rows, stock: alone } } : { stock }),
		alone ? enteredIn(tx, order.id, line.id) : null
	]);
	const now = sheet.lines.find((l) => l.id === line.id)!;
	const findings = [
		...now.rows.filter((r) => r.id === row.id).flatMap((r) => r.findings),
		...now.cells.flatMap((c) => c.picks.filter((p) => p.id === row.id).flatMap((p) => p.findings))
	];
	const stop = findings.find((f) => f.level === 'stop' && !f.open);
	if (stop) throw new Refused(stop.message);
	const open = less(line.done, line.qty) ? sub(line.qty, line.done) : '0';
	const of = line.scanned ? '' : ` of ${amount(open, line.unit)}`;
	// What is suggested beside it is nobody's yet.
	const named = total(now.cells.flatMap((c) => c.picks.flatMap((p) => (p.id && isSome(p.qty) ? [p.qty] : []))));
	const sum = whole ?? (now.cells.length ? named : now.entered);
	const said = `${row.what} ${row.looked ? 'in' : 'into'} line ${line.no}, ${line.itemName}: ${amount(sum, line.unit)}${of}`;
	return { taken: true, said, row, ...(alone ? {} : { sheet }) };
}

/** Lines whose numbers are entered by scanning: what comes or is made, not what goes into it. */
const brings = (order: Order) => order.lines.filter((l) => l.role !== 'component');

async function lineFor(tx: Db, order: Order, scan: Scan, hint: string | null): Promise<OrderLine> {
	const lines = brings(order);
	if (scan.gtin) {
		const fitting = lines.filter((l) => l.gtin === scan.gtin);
		const chosen = fitting.find((l) => l.id === hint) ?? fitting.find((l) => less(l.done, l.qty)) ?? fitting[0];
		if (chosen) return chosen;
		const [item] = await tx<{ name: string }[]>`SELECT name FROM item WHERE gtin = ${scan.gtin}`;
		throw new Refused(
			item
				? `This is ${item.name}, which is not on ${order.code}. Put it aside, or enter it as a delivery of its own.`
				: `No item has the GTIN ${scan.gtin}. Enter it in Setup, Items, or type the number from the label.`
		);
	}
	const hinted = lines.find((l) => l.id === hint);
	if (hinted) return hinted;
	const fits = lines.filter((l) => {
		const p = l.tracking.includes('serial') ? l.serialPattern : l.lotPattern;
		return p && !('problem' in readBack(p.blocks, scan.text));
	});
	if (fits.length === 1) return fits[0];
	const numbered = lines.filter((l) => l.tracking !== 'none');
	if (numbered.length === 1) return numbered[0];
	throw new Refused(`Which line is ${scan.text.slice(0, 60)} for? Click into its line, then scan again.`);
}

/** A scan with our numbers in it, and the supplier's beside them. */
type OurScan = Scan & { supplierLot?: string; supplierSerial?: string };
/**
 * A supplier's label names the supplier's lot and serial. Where the firm makes up its own, and these do not fit, ours
 * are drawn and theirs kept beside them; a supplier's lot that stands in the sheet already keeps the lot it got.
 */
async function drawOwnNumbers(
	tx: Tx,
	by: string,
	order: Order,
	line: OrderLine,
	scan: Scan,
	drafts: DraftRow[]
): Promise<OurScan> {
	if (!scan.coded || !documentKind(order.kind).fromSupplier || line.supplierNumber === 'ours') return scan;
	const foreign = (pattern: OrderLine['lotPattern'], number?: string) =>
		!!pattern && !!number && 'problem' in readBack(pattern.blocks, number);
	const mine: OurScan = { ...scan };
	const draws = (kind: 'lot' | 'serial', pattern: OrderLine['lotPattern']) =>
		draw(tx, by, {
			pattern: pattern!,
			item: { id: line.itemId, code: line.item },
			kind,
			count: 1,
			context: contextOf(line.item, order),
			order: order.id,
			line: line.id
		});
	if (line.tracking.includes('lot') && foreign(line.lotPattern, scan.lot)) {
		mine.supplierLot = scan.lot;
		const there = drafts.find((d) => d.lineId === line.id && d.data.supplierLot === scan.lot && d.data.lot);
		mine.lot = there?.data.lot ?? (await draws('lot', line.lotPattern))[0];
	}
	if (line.tracking.includes('serial') && foreign(line.serialPattern, scan.serial)) {
		if (drafts.some((d) => d.lineId === line.id && d.data.supplierSerial === scan.serial))
			throw new Refused(`The supplier’s serial ${scan.serial} is in this sheet already. Scan the next piece.`);
		mine.supplierSerial = scan.serial;
		[mine.serial] = await draws('serial', line.serialPattern);
	}
	return mine;
}

/** The one number of a row, or its first. */
const FIRST = '0';

function place(line: OrderLine, scan: OurScan, drafts: DraftRow[], typedLot: string | null): Placed {
	const mine = drafts.filter((d) => d.lineId === line.id && bringsNumbers(d));
	const facts = {
		...(scan.expiresOn ? { expiresOn: scan.expiresOn } : {}),
		...(scan.madeOn ? { madeOn: scan.madeOn } : {}),
		...(scan.supplierLot ? { supplierLot: scan.supplierLot } : {})
	};
	const beside = scan.supplierSerial ? { supplierSerial: scan.supplierSerial } : {};
	const fresh = (after: RowData, what: string): Placed => ({ id: '', before: null, after, version: 0, what });
	const changed = (d: DraftRow, after: RowData, what: string): Placed => ({
		id: d.id,
		before: d.data,
		after,
		version: d.version,
		what
	});
	const looked = (d: DraftRow, at: number, what: string) => ({
		...changed(d, { ...d.data, scanned: Positions.read(d.data.scanned).with(at) }, `${what} looked at`),
		looked: true as const
	});
	/** One number of a run as a row of its own. */
	const aloneOf = ({ step: _step, supplierSerial: _theirs, ...data }: RowData, serial: string): RowData => ({
		...data,
		...{ serial, count: 1, scanned: FIRST }
	});
	if (line.tracking.includes('serial')) {
		const serial = scan.serial ?? (scan.coded ? '' : scan.text);
		if (!serial) throw new Refused(`The code names ${line.itemName} without a serial. Scan the label with its serial.`);
		// Typed or announced, and not looked at yet: now it is.
		const holding = mine.flatMap((d) => {
			const { serial: first, count = 1, step = 1 } = d.data;
			const at = first ? positionIn({ first, count, step }, serial) : null;
			return at === null ? [] : [{ d, at }];
		});
		const same = holding.map(({ d }) => ({ id: d.id, data: aloneOf(d.data, serial) }));
		const open = holding.find(({ d, at }) => !Positions.read(d.data.scanned).has(at));
		if (open)
			return {
				...looked(open.d, open.at, serial),
				alone: aloneOf(open.d.data, serial),
				same: same.filter((s) => s.id !== open.d.id)
			};
		const lot = line.tracking.includes('lot') ? (scan.lot ?? typedLot ?? undefined) : undefined;
		// The next of a run makes the run longer: forty scans are one line of the sheet.
		const run =
			!scan.supplierSerial &&
			mine.find(
				(d) =>
					d.data.serial &&
					!d.data.step &&
					!d.data.supplierSerial &&
					(d.data.lot ?? undefined) === lot &&
					(d.data.expiresOn ?? undefined) === facts.expiresOn &&
					next(d.data.serial, d.data.count ?? 1) === serial
			);
		if (run) {
			const count = run.data.count ?? 1;
			const after = { ...run.data, count: count + 1, scanned: Positions.read(run.data.scanned).with(count) };
			return { ...changed(run, after, serial), alone: aloneOf(run.data, serial), same };
		}
		const what = scan.supplierSerial ? `${serial} (theirs ${scan.supplierSerial})` : serial;
		return {
			...fresh({ ...(lot ? { lot } : {}), serial, count: 1, ...facts, ...beside, scanned: FIRST }, what),
			same
		};
	}
	const qty = quantity(line, scan);
	if (line.tracking === 'none') {
		if (!scan.coded)
			throw new Refused(
				`${line.itemName} carries no number, so ${scan.text.slice(0, 60)} cannot be its. Type its quantity.`
			);
		const there = mine.find((d) => /^\d+(\.\d+)?$/.test(d.data.qty ?? ''));
		const what = `${amount(qty ?? '1', line.unit)} ${line.itemName}`;
		return there
			? changed(there, { ...there.data, qty: add(there.data.qty!, qty ?? '1') }, what)
			: fresh({ qty: qty ?? '1' }, what);
	}
	const lot = scan.lot ?? (scan.coded ? '' : scan.text);
	if (!lot) throw new Refused(`The code names ${line.itemName} without a lot. Scan the label with its lot.`);
	const there = mine.find((d) => d.data.lot === lot);
	if (there && !Positions.read(there.data.scanned).has(0) && (!qty || there.data.reported))
		return looked(there, 0, `Lot ${lot}`);
	if (there && (!qty || !/^\d+(\.\d+)?$/.test(there.data.qty ?? '')))
		throw new Refused(`Lot ${lot} stands in this sheet already. Change its quantity there, if more of it came.`);
	if (there)
		return changed(
			there,
			{ ...there.data, ...facts, qty: add(there.data.qty!, qty!), scanned: FIRST },
			`${amount(qty!, line.unit)} more of ${lot}`
		);
	const taken = mine.reduce((s, d) => (/^\d+(\.\d+)?$/.test(d.data.qty ?? '') ? add(s, d.data.qty!) : s), line.done);
	return fresh(
		{ lot, qty: qty ?? (less(taken, line.qty) ? sub(line.qty, taken) : ''), ...facts, scanned: FIRST },
		scan.supplierLot ? `Lot ${lot} (theirs ${scan.supplierLot})` : `Lot ${lot}`
	);
}
/** The quantity in the code, in the item's unit: pieces, or the net weight where the unit is kg or g. */
function quantity(line: OrderLine, scan: Scan): string | null {
	if (scan.weight && line.unit === 'kg') return scan.weight;
	if (scan.weight && line.unit === 'g') return shiftThousand(scan.weight);
	return scan.qty ?? null;
}
const shiftThousand = (kg: string) => {
	const [whole, rest = ''] = kg.split('.');
	return (whole + rest.padEnd(3, '0').slice(0, 3) + (rest.length > 3 ? '.' + rest.slice(3) : '')).replace(
		/^0+(?=\d)/,
		''
	);
};

async function write(tx: Tx, by: string, order: Order, line: OrderLine, row: Placed) {
	if (!row.before) {
		[row.id] = await insertRows(tx, by, order.id, [{ lineId: line.id, data: row.after }]);
		return;
	}
	if (!(await changeRow(tx, by, { id: row.id, version: row.version, data: row.after })))
		throw new Refused('Its row was booked or changed at the same moment. Scan it again.');
}

/**
 * Takes a scan back: its row as it was before.
 * @throws Problem when the row was changed since, or the scan did nothing
 */
export async function undoScan(sql: Sql, by: string, order: Order, id: string): Promise<void> {
	await transaction(sql, async (tx) => {
		const [scan] = await tx<{ row: string | null; before: RowData | null; after: RowData; undone: boolean }[]>`
			SELECT row_id AS row, before, after, undone_at IS NOT NULL AS undone FROM scan WHERE id = ${id} AND order_id = ${order.id} FOR UPDATE`;
		if (!scan?.row) throw new Problem('That scan changed nothing, so there is nothing to take back.', 409);
		if (scan.undone) throw new Problem('That scan is taken back already.', 409);
		if (!(await putBack(tx, by, order.id, { id: scan.row, before: scan.before, after: scan.after })))
			throw new Problem('Its row was changed after that scan. Change the row itself.', 409);
		await tx`UPDATE scan SET undone_at = now() WHERE id = ${id}`;
		await notify(tx, order.code);
	});
}
