import type { Db } from '../database/connect.ts';
import { binElsewhere, noSuch, sheetLotTwice, supplierRun, tooMany, unread } from '../../core/checks/catalogue.ts';
import { found, type About, type Check } from '../../core/checks/check.ts';
import { workedOut } from '../../core/checks/movements.ts';
import { parseDay, type Day } from '../../core/dates/dates.ts';
import { parseQty } from '../../core/quantity/quantity.ts';
import type { Evidence } from '../../core/ledger/evidence.ts';
import { grouped } from '../../core/quantity/sign.ts';
import { Positions } from '../../core/ranges/positions.ts';
import { expand, MOST, next } from '../../core/ranges/ranges.ts';
import { enteredIn } from '../../core/sheet/entered.ts';
import type { SheetLine, SheetRow } from '../../core/sheet/sheet.ts';
import { readNumber } from '../../core/text/text.ts';
import type { OrderLine } from '../document/orders.ts';
import type { DraftRow } from './drafts.ts';
import type { Move, Movement, SheetFinding } from './lines.ts';

/** A row that carries new numbers: what arrives, or what is made. */
export interface ReadRow extends SheetRow {
	lineId: string;
	/** every serial of the row; empty when something is wrong with them */
	serials: string[];
	/** the supplier's serials, one for each of ours; empty when none are given */
	theirs: string[];
	/** the expiry as a day, when there is one */
	day: Day | null;
	/** the expiry is recorded of its lot already */
	recorded: boolean;
	/** it cannot be read: nothing would be booked of it */
	faulty: boolean;
	/** which of its numbers were scanned */
	scanned: Positions;
	/** how the others became known */
	otherwise: 'entered' | 'reported';
}
/** What rows are read for. */
export interface Setting {
	/** the day where they are entered */
	today: Day;
	/** they come from a supplier */
	arriving: boolean;
	/** where the order's goods go: bins of the same site may be named */
	place: string | null;
}
/** Rows as they were read, and what is wrong with their form. */
export interface ReadRows {
	rows: ReadRow[];
	/** what was found, by the row */
	found: { row: ReadRow; found: SheetFinding['found'] }[];
}

/** Is it a row of new numbers, and not of stock that is taken or of how much goes now? */
export const bringsNumbers = (d: DraftRow) => !d.data.mark && d.data.now === undefined;

/**
 * Reads the rows of some lines: numbers, quantity, dates, bins. Whatever can be told of a row only when it is a movement
 * is the ledger's to check. Two statements, whatever the count.
 */
export async function readRows(
	sql: Db,
	lines: readonly OrderLine[],
	drafts: readonly DraftRow[],
	setting: Setting
): Promise<ReadRows> {
	const byId = new Map(lines.map((l) => [l.id, l]));
	const out: ReadRows = { rows: [], found: [] };
	const mine = drafts.flatMap((d) => {
		const line = byId.get(d.lineId);
		return line && bringsNumbers(d) ? [{ d, line }] : [];
	});
	// Counted before any of them is written out: of too many none is.
	const count = mine.reduce((n, { d, line }) => n + (hasSerials(line, d) ? (d.data.count ?? 1) : 0), 0);
	const amount = { count, before: 0 };
	for (const { d, line } of mine) out.rows.push(readRow(out, line, d, setting, amount));
	await Promise.all([checkBins(sql, out, setting.place), takeRecorded(sql, out.rows, byId)]);
	checkLotsTwice(out, byId);
	return out;
}

/** Does a row stand for serials, and not for a quantity? */
const hasSerials = ({ tracking }: OrderLine, { data }: DraftRow) =>
	tracking.includes('serial') && (!!data.serial?.trim() || !data.qty?.trim());

/** @param amount how many numbers the sheet has in all, and how many stand before this row */
function readRow(
	out: ReadRows,
	line: OrderLine,
	d: DraftRow,
	setting: Setting,
	amount: { count: number; before: number }
): ReadRow {
	const count = d.data.count ?? 1;
	const step = d.data.step ?? 1;
	const row: ReadRow = {
		id: d.id,
		lineId: d.lineId,
		version: d.version,
		by: d.by,
		lot: d.data.lot?.trim() ?? '',
		serial: d.data.serial?.trim() ?? '',
		last: '',
		count,
		step,
		qty: d.data.qty?.trim() ?? '',
		serials: [],
		theirs: [],
		...readDates(line, d, setting),
		recorded: false,
		cost: d.data.cost?.trim() ?? '',
		supplierLot: d.data.supplierLot?.trim() ?? '',
		supplierSerial: d.data.supplierSerial?.trim() ?? '',
		place: d.data.place?.trim() ?? '',
		facts: d.data.facts ?? {},
		...readKnown(d, hasSerials(line, d) ? count : 1),
		findings: [],
		faulty: false
	};
	const refuse = <A>(check: Check<A>, args: A, about: About | null = null) => {
		row.faulty = true;
		out.found.push({ row, found: found(check, args, { line: -1, about }) });
	};
	for (const field of ['lot', 'serial'] as const) {
		if (!row[field]) continue;
		const read = readNumber(row[field]);
		if ('problem' in read) refuse(unread, { problem: read.problem });
		else row[field] = read.number;
	}
	if (!hasSerials(line, d)) {
		const q = parseQty(row.qty, line.decimals, line.unit);
		if ('qty' in q) row.qty = q.qty;
		return row;
	}
	row.qty = String(count);
	const fits = amount.before <= MOST;
	amount.before += count;
	if (amount.count > MOST) {
		// Said once, where the limit is passed.
		if (fits && amount.before > MOST) refuse(tooMany, { count: amount.count, most: MOST });
		row.faulty = true;
	}
	if (!row.serial) return row;
	if (!row.faulty)
		try {
			row.serials = expand(row.serial, count, step);
		} catch (e) {
			refuse(unread, { problem: (e as Error).message });
		}
	row.last = count > 1 ? (next(row.serial, (count - 1) * step) ?? row.serial) : row.serial;
	if (row.supplierSerial && row.serials.length)
		try {
			row.theirs = expand(row.supplierSerial, row.serials.length);
		} catch {
			refuse(supplierRun, { first: row.supplierSerial });
		}
	return row;
}

/** How its numbers became known, also as it is shown. */
function readKnown({ data }: DraftRow, count: number) {
	const scanned = Positions.read(data.scanned);
	const looked = scanned.within(count);
	const known =
		looked === count ? 'scanned' : looked ? `${looked} of ${grouped(count)} scanned` : data.reported ? 'announced' : '';
	return { scanned, otherwise: data.reported ? ('reported' as const) : ('entered' as const), known };
}

/** When it was made and when it expires: typed, or worked out from the shelf life, with how that comes about. */
function readDates(line: OrderLine, d: DraftRow, { today, arriving }: Setting) {
	const typed = d.data.expiresOn?.trim() ?? '';
	const made = d.data.madeOn?.trim() ?? '';
	const madeRead = made ? parseDay(made) : null;
	const madeOn = madeRead && 'day' in madeRead ? madeRead.day : null;
	// Asked or not is another matter: what the item says of its life counts wherever it is made or comes.
	const worked = workedOut(line, madeOn, today, arriving);
	const read = typed ? parseDay(typed) : null;
	const day = read ? ('day' in read ? read.day : null) : (worked?.day ?? null);
	const expiryWorkedOut = !typed && !!worked;
	return {
		day,
		expiresOn: day ?? typed,
		expiryWorkedOut,
		expiryFrom: expiryWorkedOut ? worked!.ground : '',
		madeOn: madeOn ?? made,
		...(d.data.expiryChanged ? { expiryChanged: true } : {})
	};
}

/** What is recorded of lots that are known counts: their dates are not worked out once more. */
async function takeRecorded(sql: Db, rows: readonly ReadRow[], lines: ReadonlyMap<string, OrderLine>) {
	const mine = rows.filter((r) => r.lot && !r.faulty);
	if (!mine.length) return;
	const known = await sql<{ item: string; number: string; expires: Day }[]>`
		SELECT k.item_id AS item, k.lot_no AS number, k.expires_on AS expires
		FROM (SELECT DISTINCT * FROM unnest(${mine.map((r) => lines.get(r.lineId)!.itemId)}::bigint[], ${mine.map((r) => r.lot)}::text[]) w(item, number)) w
		JOIN mark k ON k.item_id = w.item AND k.lot_no = w.number AND k.kind = 'lot' AND k.expires_on IS NOT NULL`;
	const expiry = new Map(known.map((k) => [`${k.item} ${k.number}`, k.expires]));
	for (const r of mine) {
		const expires = expiry.get(`${lines.get(r.lineId)!.itemId} ${r.lot}`);
		if (!expires || (r.expiresOn && !r.expiryWorkedOut)) continue;
		r.day = r.expiresOn = expires;
		r.recorded = true;
	}
}

/** A bin that a row names must be a place of the site where the goods go. */
async function checkBins(sql: Db, out: ReadRows, place: string | null) {
	const bins = [...new Set(out.rows.flatMap((r) => r.place || []))];
	if (!bins.length) return;
	const site = place?.split('/')[0] ?? '';
	const there = new Set(
		(await sql<{ code: string }[]>`SELECT code FROM place WHERE NOT virtual AND code = ANY(${bins})`).map((p) => p.code)
	);
	for (const row of out.rows) {
		if (!row.place) continue;
		const refuse = <A>(check: Check<A>, args: A) => {
			row.faulty = true;
			out.found.push({ row, found: found(check, args, { line: -1, about: null }) });
		};
		if (!there.has(row.place)) refuse(noSuch, { what: 'place', code: row.place });
		else if (row.place.split('/')[0] !== site) refuse(binElsewhere, { place: row.place, site });
	}
}

/** One lot is one row, unless it goes to several bins. */
function checkLotsTwice(out: ReadRows, lines: ReadonlyMap<string, OrderLine>) {
	const seen = new Set<string>();
	for (const row of out.rows) {
		const { tracking, itemId } = lines.get(row.lineId)!;
		if (tracking !== 'lot' || !row.lot) continue;
		const key = `${itemId} ${row.lot} ${row.place}`;
		if (seen.has(key))
			out.found.push({
				row,
				found: found(sheetLotTwice, { bin: row.place }, { line: -1, about: { kind: 'lot', number: row.lot } })
			});
		seen.add(key);
	}
}

/** A row as it is shown. */
export const shownRow = (row: ReadRow): SheetRow => {
	const {
		serials: _s,
		theirs: _t,
		day: _d,
		lineId: _l,
		recorded: _r,
		faulty: _f,
		scanned: _p,
		otherwise: _o,
		...shown
	} = row;
	return shown;
};

/** Puts the rows of a line into its sheet. @returns what was found about their form */
export function placeRows(line: SheetLine, read: ReadRows): { said: SheetFinding[]; shown: Map<ReadRow, SheetRow> } {
	const mine = read.rows.filter((r) => r.lineId === line.id);
	const shown = new Map(mine.map((r) => [r, shownRow(r)]));
	line.rows = [...shown.values()];
	line.entered = enteredIn(mine);
	const said = read.found.flatMap((f) => (shown.has(f.row) ? [{ line, of: shown.get(f.row)!, found: f.found }] : []));
	return { said, shown };
}

/** A row as movements: one for a lot, one for each serial. None of a row that cannot be read. */
export function rowMoves(
	line: OrderLine,
	at: { line: SheetLine; shown: ReadonlyMap<ReadRow, SheetRow> },
	row: ReadRow,
	way: { from: string; to: string } & Pick<Movement, 'role'>,
	runOf?: (serial: string | null) => string
): Move[] {
	if (row.faulty) return [];
	const same = line.supplierNumber === 'ours' && way.from === '@supplier';
	const values = Object.entries(row.facts).filter(([code, v]) => v && line.facts.some((f) => f.code === code));
	const movement = (serial: string | null, theirs: string | null, position = 0): Movement => ({
		item: line.item,
		...way,
		to: row.place || way.to,
		orderLine: line.id,
		lot: row.lot || null,
		serial,
		qty: serial ? '1' : row.qty,
		evidence: knownAt(row, position),
		expiresOn: row.recorded ? null : row.expiresOn || null,
		...(row.expiryChanged ? { expiryChanged: true as const } : {}),
		madeOn: row.madeOn || null,
		supplierLot: (same ? row.lot : row.supplierLot) || null,
		supplierSerial: theirs,
		...(values.length ? { facts: Object.fromEntries(values) } : {}),
		...(runOf ? { run: runOf(serial) } : {})
	});
	const of = at.shown.get(row)!;
	if (!row.serials.length) return [{ movement: movement(null, null), line: at.line, of }];
	return row.serials.map((serial, i) => ({
		movement: movement(serial, (same ? serial : row.theirs[i]) ?? null, i),
		line: at.line,
		of
	}));
}

/** How the number at a position of a row became known. */
export const knownAt = (row: ReadRow, position: number): Evidence =>
	row.scanned.has(position) ? 'scanned' : row.otherwise;
