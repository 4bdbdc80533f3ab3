import type { Db } from '../database/connect.ts';
import { showDay } from '../../core/dates/dates.ts';
import type { Facts } from '../../core/facts/fact.ts';
import { amount } from '../../core/quantity/quantity.ts';
import { compress, text } from '../../core/ranges/ranges.ts';
import type { Finding } from '../../core/sheet/sheet.ts';
import type { OrderLine } from './orders.ts';
import type { CheckedRow, Setting } from './rows.ts';

/** A finding of a check whose strength is the firm's matter. */
export const byPolicy = (level: Finding['level'], message: string, reason: string): Finding => ({
	level,
	message: `${message}${level === 'stop' ? ' It cannot be booked so.' : level === 'reason' ? ` ${reason}` : ''}`
});

/** Some numbers in words: as ranges, the first three, and how many in all. */
export const named = (numbers: string[]) => {
	const ranges = compress(numbers).map(text);
	return ranges.length > 3 ? `${ranges.slice(0, 3).join(', ')} and ${numbers.length} in all` : ranges.join(', ');
};

/** @returns what is recorded of the lots that are known, by item and number */
export async function checkKnown(
	sql: Db,
	rows: CheckedRow[],
	lines: Map<string, OrderLine>,
	{ arriving, policy }: Setting
): Promise<Map<string, Facts>> {
	const wanted = rows.flatMap((r) => r.serials.map((s) => ({ item: lines.get(r.lineId)!.itemId, s })));
	if (wanted.length) {
		const known = await sql<
			{
				wanted: string;
				item: string;
				name: string;
				everywhere: boolean;
				number: string;
				mark: string;
				code: string;
				virtual: boolean;
				at: string;
				who: string | null;
			}[]
		>`
			SELECT w.item AS wanted, k.item_id AS item, i.name, i.serials_unique_everywhere OR o.serials_unique_everywhere AS everywhere, k.serial_no AS number, k.id AS mark, p.code, p.virtual,
				to_char(m.at, 'YYYY-MM-DD') AS at, coalesce(q.name, r.code) AS who
			FROM unnest(${wanted.map((w) => w.item)}::bigint[], ${wanted.map((w) => w.s)}::text[]) w(item, number)
			JOIN mark k ON k.serial_no = w.number AND k.kind = 'serial' JOIN item i ON i.id = k.item_id JOIN item o ON o.id = w.item
			CROSS JOIN LATERAL (SELECT * FROM effective_movement m WHERE m.mark_id = k.id ORDER BY m.at DESC, m.id DESC LIMIT 1) m
			JOIN place p ON p.id = m.to_place JOIN event e ON e.id = m.event_id LEFT JOIN partner q ON q.id = e.partner_id LEFT JOIN run r ON r.id = m.run_id
			ORDER BY k.item_id <> w.item LIMIT 2000`;
		const byNumber = new Map(known.flatMap((k) => (k.item === k.wanted ? [[`${k.item} ${k.number}`, k]] : [])));
		const others = new Map(known.flatMap((k) => (k.item !== k.wanted ? [[`${k.wanted} ${k.number}`, k]] : [])));
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
			const strange = r.serials.flatMap((s) => others.get(`${lines.get(r.lineId)!.itemId} ${s}`) ?? []);
			if (strange.length) {
				const level = strange.some((k) => k.everywhere) ? 'stop' : policy['another item'];
				const which = `${named(strange.map((k) => k.number))} ${strange.length === 1 ? 'is a serial' : 'are serials'} of ${strange[0].name}.`;
				r.findings.push({
					...byPolicy(level, which, 'Check the label, or say why it is right.'),
					mark: strange[0].mark
				});
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
	if (!lots.length) return new Map();
	const there = await sql<
		{ item: string; number: string; mark: string; expires: string | null; status: string; qty: string; facts: Facts }[]
	>`
		SELECT k.item_id AS item, k.lot_no AS number, k.id AS mark, k.expires_on AS expires, k.status, k.facts,
			(SELECT coalesce(trim_scale(sum(b.qty)), 0)::text FROM balance b WHERE NOT b.virtual AND b.mark_id IN (SELECT k.id UNION ALL SELECT c.id FROM mark c WHERE c.parent_id = k.id)) AS qty
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
	return new Map(there.map((k) => [`${k.item} ${k.number}`, k.facts]));
}

/** The supplier's lot that came before under a number of ours: offered, with its dates. */
export async function checkTheirs(sql: Db, rows: CheckedRow[], lines: Map<string, OrderLine>) {
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
