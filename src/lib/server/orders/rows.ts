import type { Db } from '../database/connect.ts';
import { compress, expand, next, text } from '../../core/ranges/ranges.ts';
import { addDuration, parseDay, sayDuration, showDay, type Day } from '../../core/dates/dates.ts';
import { amount, parseQty, total } from '../../core/quantity/quantity.ts';
import { readBack } from '../../core/numbering/pattern.ts';
import type { Finding, SheetRow } from '../../core/sheet/sheet.ts';
import type { OrderLine } from './orders.ts';
import type { DraftRow } from './drafts.ts';

/** A row that carries new numbers: what arrives, or what is made. */
export interface CheckedRow extends SheetRow {
	lineId: string;
	/** every serial of the row; empty when something is wrong with them */
	serials: string[];
	/** the expiry as a day, when there is one */
	day: Day | null;
}

/**
 * Checks rows that bring new numbers: form, quantity, dates, twice in this sheet, known already. Two statements,
 * whatever the count.
 * @param arriving true at receipt: the rule may ask for an expiry date; false at output: the shelf life gives it
 */
export async function checkRows(
	sql: Db,
	lines: OrderLine[],
	drafts: DraftRow[],
	today: Day,
	arriving: boolean
): Promise<CheckedRow[]> {
	const byId = new Map(lines.map((l) => [l.id, l]));
	const rows = drafts.filter((d) => byId.has(d.lineId) && !d.data.mark && d.data.now === undefined).map((d) => checkOne(byId.get(d.lineId)!, d, today, arriving)); // prettier-ignore
	checkTwice(rows, byId);
	await checkKnown(sql, rows, byId, arriving);
	if (arriving) await checkTheirs(sql, rows, byId);
	return rows;
}

function checkOne(line: OrderLine, d: DraftRow, today: Day, arriving: boolean): CheckedRow {
	const { tracking } = line;
	const found: Finding[] = [];
	const stop = (message: string) => void found.push({ level: 'stop', message });
	const lot = d.data.lot?.trim() ?? '';
	const serial = d.data.serial?.trim() ?? '';
	const count = d.data.count ?? 1;
	for (const n of [lot, serial]) {
		if (n.length > 60)
			stop(`“${n.slice(0, 20)}…” has ${n.length} characters; a number has at most 60. Check what was pasted.`);
		else if (/[\s\p{Cc}]/u.test(n)) stop(`“${n}” has a blank in it. Type each number apart.`);
	}
	if (tracking.includes('lot') && !lot) {
		if (line.rule.lot === 'required') stop('The lot number is missing. Type it from the label.');
		else found.push({ level: 'reason', message: 'No lot number. Type it, or say why there is none.' });
	}
	let serials: string[] = [];
	let qty = d.data.qty?.trim() ?? '';
	const bare = tracking.includes('serial') && !serial && line.rule.serial === 'asked' && !!qty;
	if (bare) found.push({ level: 'reason', message: 'No serials. Scan or type them, or say why there are none.' });
	if (tracking.includes('serial') && !bare) {
		if (!serial) stop('The serial is missing. Scan or type it.');
		else if (!found.length)
			try {
				serials = expand(serial, count);
			} catch (e) {
				stop((e as Error).message);
			}
		qty = String(count);
	} else {
		const q = parseQty(qty, line.decimals, line.unit);
		if ('problem' in q) stop(q.problem);
		else qty = q.qty;
	}
	if (!found.length) found.push(...misfits(line, lot, serials));
	let day: Day | null = null;
	let workedOut = false;
	let expiryFrom = '';
	let madeOn: Day | null = null;
	const made = d.data.madeOn?.trim() ?? '';
	if (made) {
		const r = parseDay(made);
		if ('problem' in r) stop(`Made on: ${r.problem}`);
		else if (r.day > today) stop(`Made on ${showDay(r.day)} lies ahead. Check the date.`);
		else madeOn = r.day;
	}
	const typed = d.data.expiresOn?.trim() ?? '';
	if (typed) {
		const r = parseDay(typed);
		if ('problem' in r) stop(`Expiry: ${r.problem}`);
		else {
			day = r.day;
			if (day < today)
				found.push({
					level: 'reason',
					message: `Expired on ${showDay(day)}. Say why it is taken in, or send it back.`
				});
		}
	} else if (line.expiry !== 'not asked' && line.shelfLife) {
		day = addDuration(madeOn ?? today, line.shelfLife);
		workedOut = true;
		expiryFrom = `${madeOn ? `made ${showDay(madeOn)}` : arriving ? 'received today' : 'made today'} + ${sayDuration(line.shelfLife)}`;
	} else if (line.expiry === 'required' && arriving) stop('The expiry date is missing. Type it from the label.');
	else if (line.expiry === 'asked' && arriving)
		found.push({ level: 'reason', message: 'No expiry date. Type it, or say why there is none.' });
	if (day && madeOn && day <= madeOn) stop(`It expires on ${showDay(day)}, before it was made. Check the dates.`);
	if (arriving && day && day >= today && line.leastLeft && day < addDuration(today, line.leastLeft))
		found.push({ level: 'reason', message: `Expires on ${showDay(day)}; ${sayDuration(line.leastLeft)} must be left at receipt. Say why it is taken in, or send it back.` }); // prettier-ignore
	return {
		...{ id: d.id, lineId: d.lineId, version: d.version, by: d.by, lot, serial, count, qty, serials, day },
		last: serial && serials.length > 1 ? (next(serial, count - 1) ?? serial) : serial,
		...{
			expiresOn: day ?? typed,
			expiryWorkedOut: workedOut,
			expiryFrom,
			supplierLot: d.data.supplierLot?.trim() ?? '',
			madeOn: madeOn ?? made,
			findings: found
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

const named = (numbers: string[]) => {
	const ranges = compress(numbers).map(text);
	return ranges.length > 3 ? `${ranges.slice(0, 3).join(', ')} and ${numbers.length} in all` : ranges.join(', ');
};

function checkTwice(rows: CheckedRow[], lines: Map<string, OrderLine>) {
	const seen = new Set<string>();
	const lots = new Set<string>();
	for (const r of rows) {
		const { itemId, tracking: carries } = lines.get(r.lineId)!;
		const twice = r.serials.filter((s) => seen.has(`${itemId} ${s}`));
		for (const s of r.serials) seen.add(`${itemId} ${s}`);
		if (twice.length) r.findings.push({ level: 'stop', message: `${named(twice)} stand${twice.length === 1 ? 's' : ''} in this sheet already. Take one out.` }); // prettier-ignore
		if (carries === 'lot' && r.lot) {
			if (lots.has(`${itemId} ${r.lot}`)) r.findings.push({ level: 'stop', message: `Lot ${r.lot} stands in this sheet already. Put its whole quantity in one row.` }); // prettier-ignore
			lots.add(`${itemId} ${r.lot}`);
		}
	}
}

async function checkKnown(sql: Db, rows: CheckedRow[], lines: Map<string, OrderLine>, arriving: boolean) {
	const wanted = rows.flatMap((r) => r.serials.map((s) => ({ item: lines.get(r.lineId)!.itemId, s })));
	if (wanted.length) {
		const known = await sql<
			{ item: string; number: string; mark: string; code: string; virtual: boolean; at: string; who: string | null }[]
		>`
			SELECT k.item_id AS item, k.serial_no AS number, k.id AS mark, p.code, p.virtual, to_char(m.at, 'YYYY-MM-DD') AS at, coalesce(q.name, r.code) AS who
			FROM unnest(${wanted.map((w) => w.item)}::bigint[], ${wanted.map((w) => w.s)}::text[]) w(item, number)
			JOIN mark k ON k.item_id = w.item AND k.serial_no = w.number AND k.kind = 'serial'
			CROSS JOIN LATERAL (SELECT * FROM effective_movement m WHERE m.mark_id = k.id ORDER BY m.at DESC, m.id DESC LIMIT 1) m
			JOIN place p ON p.id = m.to_place JOIN event e ON e.id = m.event_id LEFT JOIN partner q ON q.id = e.partner_id LEFT JOIN run r ON r.id = m.run_id
			LIMIT 2000`;
		const byNumber = new Map(known.map((k) => [`${k.item} ${k.number}`, k]));
		for (const r of rows) {
			const hits = r.serials.flatMap((s) => byNumber.get(`${lines.get(r.lineId)!.itemId} ${s}`) ?? []);
			const words: Record<string, (k: (typeof known)[0]) => string> = {
				'@customer': (k) => `was shipped to ${k.who ?? 'a customer'} on ${showDay(k.at)}. Enter it as a return.`,
				'@process': (k) => `was built in on ${showDay(k.at)} (${k.who}). Check the number.`,
				'@scrap': (k) => `was scrapped on ${showDay(k.at)}. Check the number.`,
				'@adjust': (k) => `was adjusted away on ${showDay(k.at)}. Check the number.`
			};
			const groups = new Map<string, (typeof known)[0][]>();
			for (const k of hits) {
				if (k.code === '@supplier' && arriving) continue;
				const sentence =
					words[k.code]?.(k) ?? `is already on hand at ${k.code} since ${showDay(k.at)}. Scan another, or open it.`;
				groups.set(sentence, [...(groups.get(sentence) ?? []), k]);
			}
			for (const [sentence, list] of groups)
				r.findings.push({
					level: 'stop',
					mark: list[0].mark,
					message: `${named(list.map((k) => k.number))} ${sentence}`
				});
		}
	}
	const lots = rows.filter((r) => r.lot);
	if (!lots.length) return;
	const there = await sql<
		{ item: string; number: string; mark: string; expires: string | null; status: string; qty: string }[]
	>`
		SELECT k.item_id AS item, k.lot_no AS number, k.id AS mark, k.expires_on AS expires, k.status,
			(SELECT coalesce(trim_scale(sum(b.qty)), 0)::text FROM balance b WHERE b.mark_id = k.id AND NOT b.virtual) AS qty
		FROM (SELECT DISTINCT * FROM unnest(${lots.map((r) => lines.get(r.lineId)!.itemId)}::bigint[], ${lots.map((r) => r.lot)}::text[]) w(item, number)) w
		JOIN mark k ON k.item_id = w.item AND k.lot_no = w.number AND k.kind = 'lot'`;
	for (const r of lots) {
		const line = lines.get(r.lineId)!;
		const k = there.find((t) => t.item === line.itemId && t.number === r.lot);
		if (!k) continue;
		if (k.expires && r.day && k.expires !== r.day && !r.expiryWorkedOut)
			r.findings.push({ level: 'stop', mark: k.mark, message: `Lot ${r.lot} is recorded to expire ${showDay(k.expires)}, not ${showDay(r.day)}. Take the recorded date, or another lot number.` }); // prettier-ignore
		else {
			if (k.expires && r.expiryWorkedOut) r.day = r.expiresOn = k.expires;
			if (k.expires && !r.day) {
				r.day = r.expiresOn = k.expires;
				r.findings = r.findings.filter((f) => !/expiry date/i.test(f.message));
			}
			r.findings.push({ level: 'note', mark: k.mark, message: `Lot ${r.lot} is known: ${amount(k.qty, line.unit)} on hand. This adds to it.` }); // prettier-ignore
		}
	}
}

/** The supplier's lot that came before under a number of ours: offered, with its dates. */
async function checkTheirs(sql: Db, rows: CheckedRow[], lines: Map<string, OrderLine>) {
	const asked = rows.filter((r) => r.supplierLot || r.lot);
	if (!asked.length) return;
	const there = await sql<
		{ item: string; theirs: string; number: string; mark: string; expires: string | null; at: string | null }[]
	>`
		SELECT k.item_id AS item, lower(k.supplier_lot) AS theirs, k.lot_no AS number, k.id AS mark, k.expires_on AS expires, to_char(e.at, 'YYYY-MM-DD') AS at
		FROM (SELECT DISTINCT * FROM unnest(${asked.map((r) => lines.get(r.lineId)!.itemId)}::bigint[], ${asked.map((r) => (r.supplierLot || r.lot).toLowerCase())}::text[]) w(item, theirs)) w
		JOIN mark k ON k.kind = 'lot' AND k.item_id = w.item AND lower(k.supplier_lot) LIKE replace(replace(replace(w.theirs, '\\', '\\\\'), '%', '\\%'), '_', '\\_')
		LEFT JOIN event e ON e.id = k.event_id`;
	for (const r of asked) {
		const k = there.find((t) => t.item === lines.get(r.lineId)!.itemId && t.theirs === (r.supplierLot || r.lot).toLowerCase()); // prettier-ignore
		if (!k || k.number === r.lot) continue;
		const dates = k.expires && r.day && k.expires !== r.day ? `; it expires ${showDay(k.expires)}, here ${showDay(r.day)} is given` : k.expires ? `, expires ${showDay(k.expires)}` : ''; // prettier-ignore
		r.findings.push({ level: 'note', mark: k.mark, use: k.number, message: `The supplier’s lot ${r.supplierLot || r.lot} came${k.at ? ` on ${showDay(k.at)}` : ''} as ${k.number}${dates}.` }); // prettier-ignore
	}
}

export const entered = (rows: CheckedRow[]) => total(rows.filter((r) => /^\d+(\.\d+)?$/.test(r.qty)).map((r) => r.qty));
