import { randomUUID } from 'node:crypto';
import { z } from 'zod';
import type { Db, Sql, Tx } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { readScan, type Scan } from '../../core/codes/scan.ts';
import { readBack } from '../../core/numbering/pattern.ts';
import { add, amount, less, sub } from '../../core/quantity/quantity.ts';
import { next } from '../../core/ranges/ranges.ts';
import type { ScanEntry } from '../../core/sheet/sheet.ts';
import { parse } from '../people/people.ts';
import { lockSheet, notify, readDrafts, type DraftRow, type RowData } from './drafts.ts';
import type { Order, OrderLine } from './orders.ts';
import { contextOf, draw } from '../numbering/draw.ts';
import { enterAnnounced } from '../inbound/notice.ts';
import { checkRows, entered } from './rows.ts';
import { today } from './sheet.ts';
import { readPolicy } from '../setup/policy.ts';

export const scanInput = z.strictObject({
	/** made by the browser, so that sending twice takes it once */
	id: z.uuid(),
	text: z.string().min(1).max(2000, 'That is too long for a code.'),
	/** where the cursor stands: the line, and the lot typed there */
	lineId: z.string().regex(/^\d+$/).nullish(),
	lot: z.string().trim().max(60).nullish()
});
export interface Taken {
	taken: boolean;
	said: string;
	/** a lot that serials to come belong to: for the lot field of that line */
	hold?: { lineId: string; lot: string; expiresOn?: string };
	/** rows that a pallet's code entered */
	added?: string[];
}
/** A scan that is not taken; the sentence says why and what to do. Nothing is changed. */
class Refused extends Error {}

/**
 * Puts a scan where it belongs in the sheet of a delivery or of what is made: the line by the item in the code, by the
 * cursor, or by the pattern that the number fits; the row by its lot, or as the next of a run. Whatever comes of it
 * is kept in the scan log.
 */
export async function takeScan(sql: Sql, by: string, order: Order, input: unknown): Promise<Taken> {
	const given = parse(scanInput, input);
	const [known] = await sql<{ taken: boolean; said: string }[]>`SELECT taken, said FROM scan WHERE id = ${given.id} AND order_id = ${order.id}`; // prettier-ignore
	if (known) return known;
	const log = (
		tx: Db,
		taken: boolean,
		said: string,
		row: { id: string; before: RowData | null; after: RowData } | null
	) =>
		tx`INSERT INTO scan (id, order_id, text, taken, said, row_id, before, after, scanned_by)
			VALUES (${given.id}, ${order.id}, ${given.text}, ${taken}, ${said}, ${row?.id ?? null},
				${row?.before ? JSON.stringify(row.before) : null}::text::jsonb, ${row ? JSON.stringify(row.after) : null}::text::jsonb, ${by}) ON CONFLICT DO NOTHING`;
	try {
		const scan = readScan(given.text, new Date().getFullYear());
		if ('problem' in scan) throw new Refused(scan.problem);
		return (await sql.begin(async (raw) => {
			const tx = raw as unknown as Tx;
			await lockSheet(tx, order.id);
			if (scan.sscc && !scan.gtin) {
				const { ids, numbers } = await enterAnnounced(tx, by, order, { pallet: scan.sscc }).catch((e) => {
					throw e instanceof Problem ? new Refused(e.message) : e;
				});
				if (!numbers) throw new Refused(`All of pallet ${scan.sscc} is in the sheet already.`);
				const said = `Pallet ${scan.sscc}: ${numbers.toLocaleString('en')} announced ${numbers === 1 ? 'number' : 'numbers'} entered`; // prettier-ignore
				await log(tx, true, said, null);
				return { taken: true, said, added: ids };
			}
			const drafts = [...(await readDrafts(tx, order.id))];
			const line = await lineFor(tx, order, scan, given.lineId ?? null);
			if (line.tracking === 'lot and serial' && !scan.serial && scan.coded) {
				if (!scan.lot) throw new Refused(`The code names ${line.itemName} without lot or serial. Scan the label with its number.`); // prettier-ignore
				const said = `Lot ${scan.lot} for the serials to come, line ${line.no}`;
				await log(tx, true, said, null);
				await notify(tx, order.code);
				return { taken: true, said, hold: { lineId: line.id, lot: scan.lot, expiresOn: scan.expiresOn } };
			}
			const row = place(order, line, await ours(tx, by, order, line, scan, drafts), drafts, given.lot || null);
			await write(tx, by, order, line, row);
			const after = [...(await readDrafts(tx, order.id))];
			const checked = await checkRows(tx, [line], after, {
				...{ today: today(), arriving: order.kind === 'purchase', place: order.place, policy: await readPolicy(tx) }
			});
			// What the code does not say is typed after it; what is wrong with it makes the scan a wrong one.
			const stop = checked.find((r) => r.id === row.id)?.findings.find((f) => f.level === 'stop' && !f.open);
			if (stop) throw new Refused(stop.message);
			const done = entered(checked);
			const open = less(line.done, line.qty) ? sub(line.qty, line.done) : '0';
			const said = `${row.what} into line ${line.no}, ${line.itemName}: ${amount(done, line.unit)} of ${amount(open, line.unit)}`; // prettier-ignore
			await log(tx, true, said, row);
			await notify(tx, order.code);
			return { taken: true, said };
		})) as Taken;
	} catch (e) {
		if (!(e instanceof Refused)) throw e;
		await log(sql, false, e.message, null);
		await notify(sql, order.code);
		return { taken: false, said: e.message };
	}
}

const brings = (order: Order) => order.lines.filter((l) => l.role !== 'component');

async function lineFor(tx: Db, order: Order, scan: Scan, hint: string | null): Promise<OrderLine> {
	const lines = brings(order);
	if (scan.gtin) {
		const fitting = lines.filter((l) => l.gtin === scan.gtin);
		const chosen = fitting.find((l) => l.id === hint) ?? fitting.find((l) => less(l.done, l.qty)) ?? fitting[0];
		if (chosen) return chosen;
		const [item] = await tx<{ name: string }[]>`SELECT name FROM item WHERE gtin = ${scan.gtin}`;
		throw new Refused(item
			? `This is ${item.name}, which is not on ${order.code}. Put it aside, or enter it as a delivery of its own.`
			: `No item has the GTIN ${scan.gtin}. Enter it in Setup, Items, or type the number from the label.`); // prettier-ignore
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
async function ours(
	tx: Tx,
	by: string,
	order: Order,
	line: OrderLine,
	scan: Scan,
	drafts: DraftRow[]
): Promise<OurScan> {
	if (!scan.coded || order.kind !== 'purchase' || line.supplierNumber === 'ours') return scan;
	const foreign = (pattern: OrderLine['lotPattern'], number?: string) => !!pattern && !!number && 'problem' in readBack(pattern.blocks, number); // prettier-ignore
	const mine: OurScan = { ...scan };
	const draws = (kind: 'lot' | 'serial', pattern: OrderLine['lotPattern']) =>
		draw(tx, by, { pattern: pattern!, item: { id: line.itemId, code: line.item }, kind, count: 1, context: contextOf(line.item, order.place), order: order.id, line: line.id }); // prettier-ignore
	if (line.tracking.includes('lot') && foreign(line.lotPattern, scan.lot)) {
		mine.supplierLot = scan.lot;
		const there = drafts.find((d) => d.lineId === line.id && d.data.supplierLot === scan.lot && d.data.lot);
		mine.lot = there?.data.lot ?? (await draws('lot', line.lotPattern))[0];
	}
	if (line.tracking.includes('serial') && foreign(line.serialPattern, scan.serial)) {
		if (drafts.some((d) => d.lineId === line.id && d.data.supplierSerial === scan.serial)) throw new Refused(`The supplier’s serial ${scan.serial} is in this sheet already. Scan the next piece.`); // prettier-ignore
		mine.supplierSerial = scan.serial;
		[mine.serial] = await draws('serial', line.serialPattern);
	}
	return mine;
}

interface Placed {
	id: string;
	before: RowData | null;
	after: RowData;
	version: number;
	/** what was scanned, in words */
	what: string;
}
function place(order: Order, line: OrderLine, scan: OurScan, drafts: DraftRow[], typedLot: string | null): Placed {
	const mine = drafts.filter((d) => d.lineId === line.id && !d.data.mark && d.data.now === undefined);
	const facts = {
		...(scan.expiresOn ? { expiresOn: scan.expiresOn } : {}),
		...(scan.madeOn ? { madeOn: scan.madeOn } : {}),
		...(scan.supplierLot ? { supplierLot: scan.supplierLot } : {})
	};
	const beside = scan.supplierSerial ? { supplierSerial: scan.supplierSerial } : {};
	const fresh = (after: RowData, what: string): Placed => ({ id: randomUUID(), before: null, after, version: 0, what });
	const changed = (d: DraftRow, after: RowData, what: string): Placed => ({ id: d.id, before: d.data, after, version: d.version, what }); // prettier-ignore
	if (line.tracking.includes('serial')) {
		const serial = scan.serial ?? (scan.coded ? '' : scan.text);
		if (!serial) throw new Refused(`The code names ${line.itemName} without a serial. Scan the label with its serial.`);
		const lot = line.tracking.includes('lot') ? (scan.lot ?? typedLot ?? undefined) : undefined;
		// The next of a run makes the run longer: forty scans are one line of the sheet.
		const run = !scan.supplierSerial && mine.find((d) => d.data.serial && !d.data.step && !d.data.supplierSerial && (d.data.lot ?? undefined) === lot && (d.data.expiresOn ?? undefined) === facts.expiresOn
			&& next(d.data.serial, d.data.count ?? 1) === serial); // prettier-ignore
		if (run) return changed(run, { ...run.data, count: (run.data.count ?? 1) + 1 }, serial);
		return fresh({ ...(lot ? { lot } : {}), serial, count: 1, ...facts, ...beside }, scan.supplierSerial ? `${serial} (theirs ${scan.supplierSerial})` : serial); // prettier-ignore
	}
	const qty = quantity(line, scan);
	if (line.tracking === 'none') {
		if (!scan.coded) throw new Refused(`${line.itemName} carries no number, so ${scan.text.slice(0, 60)} cannot be its. Type its quantity.`); // prettier-ignore
		const there = mine.find((d) => /^\d+(\.\d+)?$/.test(d.data.qty ?? ''));
		const what = `${amount(qty ?? '1', line.unit)} ${line.itemName}`;
		return there ? changed(there, { ...there.data, qty: add(there.data.qty!, qty ?? '1') }, what) : fresh({ qty: qty ?? '1' }, what); // prettier-ignore
	}
	const lot = scan.lot ?? (scan.coded ? '' : scan.text);
	if (!lot) throw new Refused(`The code names ${line.itemName} without a lot. Scan the label with its lot.`);
	const there = mine.find((d) => d.data.lot === lot);
	if (there && (!qty || !/^\d+(\.\d+)?$/.test(there.data.qty ?? '')))
		throw new Refused(`Lot ${lot} stands in this sheet already. Change its quantity there, if more of it came.`);
	if (there) return changed(there, { ...there.data, ...facts, qty: add(there.data.qty!, qty!) }, `${amount(qty!, line.unit)} more of ${lot}`); // prettier-ignore
	const taken = mine.reduce((s, d) => (/^\d+(\.\d+)?$/.test(d.data.qty ?? '') ? add(s, d.data.qty!) : s), line.done);
	return fresh(
		{ lot, qty: qty ?? (less(taken, line.qty) ? sub(line.qty, taken) : ''), ...facts },
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
	const data = JSON.stringify(row.after);
	if (row.before) {
		const done =
			await tx`UPDATE draft_row SET data = ${data}::text::jsonb, version = version + 1, changed_by = ${by}, changed_at = now()
			WHERE id = ${row.id} AND version = ${row.version}`;
		if (!done.count) throw new Refused('Its row was booked or changed at the same moment. Scan it again.');
	} else
		await tx`INSERT INTO draft_row (id, order_id, line_id, data, changed_by) VALUES (${row.id}, ${order.id}, ${line.id}, ${data}::text::jsonb, ${by})`;
}

/**
 * Takes a scan back: its row as it was before.
 * @throws Problem when the row was changed since, or the scan did nothing
 */
export async function undoScan(sql: Sql, by: string, order: Order, id: string): Promise<void> {
	await sql.begin(async (raw) => {
		const tx = raw as unknown as Tx;
		const [scan] = await tx<
			{ row: string | null; before: RowData | null; after: RowData; undone: boolean; text: string }[]
		>`
			SELECT row_id AS row, before, after, undone_at IS NOT NULL AS undone, text FROM scan WHERE id = ${id} AND order_id = ${order.id} FOR UPDATE`;
		if (!scan?.row) throw new Problem('That scan changed nothing, so there is nothing to take back.', 409);
		if (scan.undone) throw new Problem('That scan is taken back already.', 409);
		const touched = scan.before
			? await tx`UPDATE draft_row SET data = ${JSON.stringify(scan.before)}::text::jsonb, version = version + 1, changed_by = ${by}, changed_at = now()
				WHERE id = ${scan.row} AND order_id = ${order.id} AND data = ${JSON.stringify(scan.after)}::text::jsonb`
			: await tx`DELETE FROM draft_row WHERE id = ${scan.row} AND order_id = ${order.id} AND data = ${JSON.stringify(scan.after)}::text::jsonb`;
		if (!touched.count) throw new Problem('Its row was changed after that scan. Change the row itself.', 409);
		await tx`UPDATE scan SET undone_at = now() WHERE id = ${id}`;
		await notify(tx, order.code);
	});
}

/** The latest scans of an order, newest first. */
export const scanLog = (sql: Db, orderId: string) => sql<ScanEntry[]>`
	SELECT s.id, s.text, s.taken, s.said, s.undone_at IS NOT NULL AS undone, s.row_id IS NOT NULL AND s.undone_at IS NULL AS "canUndo",
		coalesce(p.name, s.scanned_by) AS by, to_char(s.scanned_at AT TIME ZONE 'UTC', 'HH24:MI:SS') AS at
	FROM scan s LEFT JOIN person p ON p.login = s.scanned_by WHERE s.order_id = ${orderId} ORDER BY s.scanned_at DESC LIMIT 30`;
