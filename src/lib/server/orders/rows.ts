import type { Db } from '../database/connect.ts';
import { expand, next } from '../../core/ranges/ranges.ts';
import { addDuration, parseDay, sayDuration, showDay, workOut, type Day } from '../../core/dates/dates.ts';
import { parseQty, total } from '../../core/quantity/quantity.ts';
import { readBack } from '../../core/numbering/pattern.ts';
import { checkFacts, showFact, type Facts } from '../../core/facts/fact.ts';
import type { Policy } from '../../core/policy/policy.ts';
import type { Finding, SheetRow } from '../../core/sheet/sheet.ts';
import { byPolicy, checkKnown, checkTheirs, named } from './known.ts';
import type { OrderLine } from './orders.ts';
import type { DraftRow } from './drafts.ts';

/** A row that carries new numbers: what arrives, or what is made. */
export interface CheckedRow extends SheetRow {
	lineId: string;
	/** every serial of the row; empty when something is wrong with them */
	serials: string[];
	/** the supplier's serials, one for each of ours; empty when none are given */
	theirs: string[];
	/** the expiry as a day, when there is one */
	day: Day | null;
}
/** What rows are checked against. */
export interface Setting {
	today: Day;
	/** true at receipt: numbers come from outside; false at output and at shipment */
	arriving: boolean;
	/** where the order's goods arrive: bins of the same site may be named */
	place: string | null;
	policy: Policy;
}

/**
 * Checks rows that bring new numbers: form, quantity, dates, facts, bins, twice in this sheet, known already. A fixed
 * number of statements, whatever the count.
 */
export async function checkRows(
	sql: Db,
	lines: OrderLine[],
	drafts: DraftRow[],
	setting: Setting
): Promise<CheckedRow[]> {
	const byId = new Map(lines.map((l) => [l.id, l]));
	const rows = drafts.filter((d) => byId.has(d.lineId) && !d.data.mark && d.data.now === undefined).map((d) => checkOne(byId.get(d.lineId)!, d, setting)); // prettier-ignore
	checkTwice(rows, byId);
	await checkBins(sql, rows, setting.place);
	const known = await checkKnown(sql, rows, byId, setting);
	if (setting.arriving) await checkTheirs(sql, rows, byId);
	checkRowFacts(rows, byId, known);
	return rows;
}

function checkOne(line: OrderLine, d: DraftRow, setting: Setting): CheckedRow {
	const { tracking } = line;
	const found: Finding[] = [];
	const stop = (message: string) => void found.push({ level: 'stop', message });
	const lot = d.data.lot?.trim() ?? '';
	const serial = d.data.serial?.trim() ?? '';
	const count = d.data.count ?? 1;
	const step = d.data.step ?? 1;
	for (const n of [lot, serial]) {
		if (n.length > 60)
			stop(`“${n.slice(0, 20)}…” has ${n.length} characters; a number has at most 60. Check what was pasted.`);
		else if (/[\s\p{Cc}]/u.test(n)) stop(`“${n}” has a blank in it. Type each number apart.`);
	}
	if (tracking.includes('lot') && !lot) {
		if (line.rule.lot === 'required')
			found.push({ level: 'stop', open: true, message: 'The lot number is missing. Type it from the label.' }); // prettier-ignore
		else found.push({ level: 'reason', message: 'No lot number. Type it, or say why there is none.' });
	}
	const wrong = () => found.some((f) => f.level === 'stop' && !f.open);
	let serials: string[] = [];
	let qty = d.data.qty?.trim() ?? '';
	const bare = tracking.includes('serial') && !serial && line.rule.serial === 'asked' && !!qty;
	if (bare) found.push({ level: 'reason', message: 'No serials. Scan or type them, or say why there are none.' });
	if (tracking.includes('serial') && !bare) {
		if (!serial) stop('The serial is missing. Scan or type it.');
		else if (!wrong())
			try {
				serials = expand(serial, count, step);
			} catch (e) {
				stop((e as Error).message);
			}
		qty = String(count);
	} else {
		const q = parseQty(qty, line.decimals, line.unit);
		if ('problem' in q) found.push({ level: 'stop', message: q.problem, ...(qty ? {} : { open: true as const }) });
		else qty = q.qty;
	}
	if (!wrong()) found.push(...misfits(line, lot, serials));
	let theirs: string[] = [];
	const supplierSerial = d.data.supplierSerial?.trim() ?? '';
	if (supplierSerial && serials.length)
		try {
			theirs = expand(supplierSerial, serials.length);
		} catch {
			stop(`The supplier’s serial ${supplierSerial} has no digits to count on from. Enter its pieces one by one.`);
		}
	const dates = checkDates(line, d.data, setting);
	found.push(...dates.findings);
	return {
		...{ id: d.id, lineId: d.lineId, version: d.version, by: d.by, lot, serial, count, step, qty, serials, theirs },
		last: serial && serials.length > 1 ? (next(serial, (count - 1) * step) ?? serial) : serial,
		...dates.row,
		...{ supplierLot: d.data.supplierLot?.trim() ?? '', supplierSerial },
		...{ place: d.data.place?.trim() ?? '', facts: d.data.facts ?? {}, findings: found }
	};
}

/** When it was made and when it expires: typed, or worked out from the shelf life; with what is wrong with it. */
function checkDates(line: OrderLine, data: DraftRow['data'], { today, arriving, policy }: Setting) {
	const findings: Finding[] = [];
	const stop = (message: string) => void findings.push({ level: 'stop', message });
	let madeOn: Day | null = null;
	const made = data.madeOn?.trim() ?? '';
	if (made) {
		const r = parseDay(made);
		if ('problem' in r) stop(`Made on: ${r.problem}`);
		else if (r.day > today) stop(`Made on ${showDay(r.day)} lies ahead. Check the date.`);
		else madeOn = r.day;
	}
	let day: Day | null = null;
	const typed = data.expiresOn?.trim() ?? '';
	const dated = line.expiry !== 'not asked';
	const worked = dated && line.shelfLife ? workOut(madeOn ?? today, line.shelfLife, line.endOfMonth) : null;
	const from = worked ? `${madeOn ? `made ${showDay(madeOn)}` : arriving ? 'received today' : 'made today'} + ${sayDuration(line.shelfLife!)}${line.endOfMonth ? ', to the end of the month' : ''}` : ''; // prettier-ignore
	if (typed) {
		const r = parseDay(typed);
		if ('problem' in r) stop(`Expiry: ${r.problem}`);
		else {
			day = r.day;
			if (day < today)
				findings.push(byPolicy(policy.expired, `Expired on ${showDay(day)}.`, 'Say why it is taken in, or send it back.')); // prettier-ignore
			if (worked && day !== worked && (data.expiryChanged || !arriving))
				findings.push(byPolicy(policy['changed expiry'], `Expiry changed from ${showDay(worked)} (${from}) to ${showDay(day)}.`, 'Say why.')); // prettier-ignore
		}
	} else if (worked) day = worked;
	else if (line.expiry === 'required') findings.push({ level: 'stop', open: true, message: 'The expiry date is missing. Type it from the label.' }); // prettier-ignore
	else if (line.expiry === 'asked') findings.push({ level: 'reason', message: 'No expiry date. Type it, or say why there is none.' }); // prettier-ignore
	if (day && madeOn && day <= madeOn) stop(`It expires on ${showDay(day)}, before it was made. Check the dates.`);
	if (arriving && day && day >= today && line.leastLeft && day < addDuration(today, line.leastLeft))
		findings.push(byPolicy(policy['too short'], `Expires on ${showDay(day)}; ${sayDuration(line.leastLeft)} must be left at receipt.`, 'Say why it is taken in, or send it back.')); // prettier-ignore
	const expiryWorkedOut = !typed && !!worked;
	return {
		findings,
		row: {
			...{ day, expiresOn: day ?? typed, expiryWorkedOut, expiryFrom: expiryWorkedOut ? from : '', madeOn: madeOn ?? made }, // prettier-ignore
			...(data.expiryChanged ? { expiryChanged: true } : {})
		}
	};
}

/** Numbers that do not fit the item's pattern: wrong length, signs or check character. */
function misfits(line: OrderLine, lot: string, serials: string[]): Finding[] {
	const wrong = (pattern: OrderLine['lotPattern'], numbers: string[]) => {
		if (!pattern) return [];
		const list = numbers.flatMap((n) => {
			const read = readBack(pattern.blocks, n);
			return 'problem' in read ? [read.problem] : [];
		});
		return list.length ? [{ level: line.misfit, message: list[0] + (list.length > 1 ? ` So do ${list.length - 1} more.` : '') }] : []; // prettier-ignore
	};
	return [...wrong(line.serialPattern, serials), ...(lot ? wrong(line.lotPattern, [lot]) : [])];
}

function checkTwice(rows: CheckedRow[], lines: Map<string, OrderLine>) {
	const seen = new Set<string>();
	const lots = new Set<string>();
	for (const r of rows) {
		const { itemId, tracking: carries } = lines.get(r.lineId)!;
		const twice = r.serials.filter((s) => seen.has(`${itemId} ${s}`));
		for (const s of r.serials) seen.add(`${itemId} ${s}`);
		if (twice.length) r.findings.push({ level: 'stop', message: `${named(twice)} stand${twice.length === 1 ? 's' : ''} in this sheet already. Take one out.` }); // prettier-ignore
		if (carries === 'lot' && r.lot) {
			// One lot may go to several bins: each a row of its own.
			const key = `${itemId} ${r.lot} ${r.place}`;
			if (lots.has(key)) r.findings.push({ level: 'stop', message: `Lot ${r.lot} stands in this sheet already${r.place ? ` for ${r.place}` : ''}. Put its whole quantity in one row, or name another bin.` }); // prettier-ignore
			lots.add(key);
		}
	}
}

/** A bin that a row names must be a place of the site where the goods arrive. */
async function checkBins(sql: Db, rows: CheckedRow[], place: string | null) {
	const named = [...new Set(rows.flatMap((r) => r.place || []))];
	if (!named.length) return;
	const site = place?.split('/')[0] ?? '';
	const there = new Set((await sql<{ code: string }[]>`SELECT code FROM place WHERE NOT virtual AND code = ANY(${named})`).map((p) => p.code)); // prettier-ignore
	for (const r of rows) {
		if (!r.place) continue;
		if (!there.has(r.place)) r.findings.push({ level: 'stop', message: `There is no place ${r.place}. Choose one of the list, or add it in Setup.` }); // prettier-ignore
		else if (r.place.split('/')[0] !== site) r.findings.push({ level: 'stop', message: `${r.place} is not at ${site}, where this arrives. Choose a bin of ${site}, and transfer it later.` }); // prettier-ignore
	}
}

/** The facts that a line asks of each row; what is recorded of a known lot, or stands in another row of it, counts. */
function checkRowFacts(rows: CheckedRow[], lines: Map<string, OrderLine>, known: Map<string, Facts>) {
	for (const [id, line] of lines) {
		if (!line.facts.length) continue;
		const mine = rows.filter((r) => r.lineId === id && (r.serials.length || r.lot || r.serial));
		const lots = new Map<string, Facts>();
		for (const r of mine)
			for (const f of line.facts) {
				const value = r.facts[f.code]?.trim();
				if (f.per !== 'lot' || !r.lot || !value) continue;
				const there = lots.get(r.lot) ?? {};
				lots.set(r.lot, there);
				there[f.code] ??= value;
				if (there[f.code] !== value) r.findings.push({ level: 'stop', message: `${f.name} of lot ${r.lot} is ${showFact(f, there[f.code])} in one row and ${showFact(f, value)} here. Make them the same.` }); // prettier-ignore
			}
		for (const r of mine) {
			const recorded = known.get(`${line.itemId} ${r.lot}`) ?? {};
			const shared = Object.fromEntries(line.facts.flatMap((f) => {
				const value = f.per === 'lot' && r.lot ? (recorded[f.code] ?? (r.facts[f.code]?.trim() ? undefined : lots.get(r.lot)?.[f.code])) : undefined;
				return value ? [[f.code, value]] : [];
			})); // prettier-ignore
			const { values, findings } = checkFacts(line.facts, r.facts, shared);
			r.facts = { ...r.facts, ...values };
			r.findings.push(...findings);
		}
	}
}

export const entered = (rows: CheckedRow[]) => total(rows.filter((r) => /^\d+(\.\d+)?$/.test(r.qty)).map((r) => r.qty));
