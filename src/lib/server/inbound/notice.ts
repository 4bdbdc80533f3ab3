import { grouped, typedNumber } from '../../core/quantity/sign.ts';
import { z } from 'zod';
import { notAnnounced, type Policy } from '../../core/checks/catalogue.ts';
import { found, type Finding } from '../../core/checks/check.ts';
import { transaction, type Db, type Sql, type Tx } from '../database/connect.ts';
import { readEpcis, readTable, type Announced } from '../../core/notice/notice.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { add, less, parseQty, rest } from '../../core/quantity/quantity.ts';
import { compress, expand, MOST, text } from '../../core/ranges/ranges.ts';
import type { AnnouncedLine } from '../../core/sheet/sheet.ts';
import { readCells } from '../../core/tables/table.ts';
import { id, line as oneLine } from '../../core/text/input.ts';
import { readNumber } from '../../core/text/text.ts';
import type { Order, OrderLine } from '../document/orders.ts';
import { everySerial } from '../numbering/serials.ts';
import { parse } from '../parse.ts';
import { insertRows, lockSheet, readDrafts, type RowData } from '../sheet/drafts.ts';
import { notify } from '../sheet/live.ts';
import type { ReadRow } from '../sheet/rows.ts';

const MOST_ROWS = 20_000;
/** A notice as it arrives: a CSV table, or an EPCIS 2.0 document. */
export const noticeInput = z.union([
	z.strictObject({
		name: oneLine(200),
		/** the file: EPCIS 2.0 JSON, or CSV; or the cells of an XLSX */
		text: z.string().max(10_000_000).optional(),
		cells: z
			.array(z.array(z.string().max(500)).max(50))
			.max(MOST_ROWS)
			.optional()
	}),
	/** puts what was announced and has not arrived into the sheet: of one line, or of one pallet */
	z.strictObject({
		enter: z.strictObject({
			lineId: id.optional(),
			pallet: z
				.string()
				.regex(/^\d{18}$/)
				.optional()
		})
	})
]);

/**
 * Takes a supplier's notice for a delivery; it takes the place of an earlier one.
 * @returns a sentence on what it announces
 * @throws Problem naming each row that cannot be read or belongs to no line; nothing is taken then
 */
export async function takeNotice(
	sql: Sql,
	by: string,
	order: Order,
	input: { name: string; text?: string; cells?: string[][] }
): Promise<string> {
	const { rows, faults } = read(input);
	const wrong: Fault[] = faults.map((f) => ({ message: `${f.at}: ${f.message}` }));
	const lines = order.lines;
	const matched = rows.flatMap((r): (Announced & { line: OrderLine })[] => {
		const line = lines.find((l) => l.gtin === r.item || l.item === r.item);
		if (!line)
			return (
				wrong.push({ message: `${r.at}: ${r.item} is not on ${order.code}. Check the order, or remove the row.` }),
				[]
			);
		for (const number of [r.lot, r.serial]) {
			const read = number === undefined ? null : readNumber(number);
			if (read && 'problem' in read) return (wrong.push({ message: `${r.at}: ${read.problem}` }), []);
		}
		if (r.serial) return [{ ...r, qty: String(r.count), line }];
		const q = parseQty(typedNumber(r.qty, line.decimals, '.'), line.decimals, line.unit);
		if ('problem' in q) return (wrong.push({ message: `${r.at}: ${q.problem}` }), []);
		return [{ ...r, qty: q.qty, line }];
	});
	if (wrong.length) throw new Problem(wrong.slice(0, 100));
	if (matched.reduce((n, m) => n + m.count, 0) > MOST)
		throw new Problem(`The notice announces more than ${grouped(MOST)} numbers. Ask for it in parts.`);
	if (!matched.length) throw new Problem('The notice announces nothing.');
	await transaction(sql, async (tx) => {
		const [{ id }] = await tx<
			{ id: string }[]
		>`INSERT INTO notice (order_id, name, taken_by) VALUES (${order.id}, ${input.name}, ${by}) RETURNING id`;
		await tx`INSERT INTO notice_row (notice_id, no, line_id, pallet, lot, serial, count, qty, expires_on, made_on)
			SELECT ${id}::bigint, pos, line, pallet, lot, serial, count, qty, expires, made FROM unnest(${matched.map((m) => m.line.id)}::bigint[], ${matched.map((m) => m.pallet ?? null)}::text[],
				${matched.map((m) => m.lot ?? null)}::text[], ${matched.map((m) => m.serial ?? null)}::text[], ${matched.map((m) => m.count)}::int[], ${matched.map((m) => m.qty)}::numeric[],
				${matched.map((m) => m.expiresOn ?? null)}::date[], ${matched.map((m) => m.madeOn ?? null)}::date[]) WITH ORDINALITY n(line, pallet, lot, serial, count, qty, expires, made, pos)`;
		await notify(tx, order.code);
	});
	const pallets = new Set(matched.flatMap((m) => m.pallet ?? []));
	const numbers = matched.reduce((n, m) => n + m.count, 0);
	return `${input.name} announces ${grouped(numbers)} ${numbers === 1 ? 'number' : 'numbers'}${pallets.size ? ` on ${pallets.size} ${pallets.size === 1 ? 'pallet' : 'pallets'}` : ''}.`;
}

function read({ text = '', cells }: { text?: string; cells?: string[][] }) {
	if (cells) return readTable(cells);
	if (!/^\s*[{[]/.test(text)) return readTable(readCells(text));
	let document: unknown;
	try {
		document = JSON.parse(text);
	} catch {
		throw new Problem('The file begins like JSON and cannot be read as such. Ask the supplier for it once more.');
	}
	return readEpcis(document);
}

interface NoticeRow {
	lineId: string;
	pallet: string | null;
	lot: string | null;
	serial: string | null;
	count: number;
	qty: string;
	expiresOn: string | null;
	madeOn: string | null;
}
/** The newest notice of an order; null when there is none. */
async function newest(
	sql: Db,
	orderId: string
): Promise<{ name: string; at: string; by: string; rows: NoticeRow[] } | null> {
	const [notice] = await sql<{ id: string; name: string; at: string; by: string }[]>`
		SELECT n.id, n.name, shown_day(n.taken_at) AS at, coalesce(p.name, n.taken_by) AS by FROM notice n LEFT JOIN person p ON p.login = n.taken_by
		WHERE n.order_id = ${orderId} ORDER BY n.id DESC LIMIT 1`;
	if (!notice) return null;
	const rows = await sql<NoticeRow[]>`
		SELECT line_id AS "lineId", pallet, lot, serial, count, trim_scale(qty)::text AS qty, expires_on AS "expiresOn", made_on AS "madeOn" FROM notice_row WHERE notice_id = ${notice.id} ORDER BY no`;
	return { ...notice, rows: [...rows] };
}

interface Arrived {
	serials: Set<string>;
	lots: Map<string, string>;
}
/** What of each line has arrived: in the sheet, or booked. */
async function arrivedOf(
	sql: Db,
	order: Order,
	entered: readonly { lineId: string; lot: string; qty: string; serials: string[] }[]
): Promise<Map<string, Arrived>> {
	const out = new Map<string, Arrived>(order.lines.map((l) => [l.id, { serials: new Set(), lots: new Map() }]));
	const lot = (a: Arrived, number: string, qty: string) => void a.lots.set(number, add(a.lots.get(number) ?? '0', qty));
	for (const r of entered) {
		const a = out.get(r.lineId);
		if (!a) continue;
		r.serials.forEach((s) => a.serials.add(s));
		if (r.lot && !r.serials.length && /^\d+(\.\d+)?$/.test(r.qty)) lot(a, r.lot, r.qty);
	}
	for (const b of await sql<{ line: string; kind: string; number: string; qty: string }[]>`
		SELECT m.order_line_id AS line, k.kind, k.number, m.qty::text AS qty FROM effective_movement m JOIN mark k ON k.id = m.mark_id AND k.kind <> 'unmarked'
		WHERE m.order_line_id = ANY(${order.lines.map((l) => l.id)}::bigint[])`) {
		const a = out.get(b.line)!;
		if (b.kind === 'serial') a.serials.add(b.number);
		else lot(a, b.number, b.qty);
	}
	return out;
}

/** What was announced, against what has arrived. */
export interface Compared {
	name: string;
	at: string;
	by: string;
	lines: Map<string, AnnouncedLine>;
	/** rows with numbers that nobody announced */
	odd: { row: ReadRow; found: Finding }[];
}
/** What was announced against what has arrived, line by line; and a note on what nobody announced. Null without a notice. */
export async function compareNotice(
	sql: Db,
	order: Order,
	rows: readonly ReadRow[],
	policy: Policy
): Promise<Compared | null> {
	const notice = await newest(sql, order.id);
	if (!notice) return null;
	const arrived = await arrivedOf(sql, order, rows);
	const lines = new Map<string, AnnouncedLine>();
	const odd: Compared['odd'] = [];
	for (const l of order.lines) {
		const mine = notice.rows.filter((r) => r.lineId === l.id);
		if (!mine.length) continue;
		const a = arrived.get(l.id)!;
		const expected = new Set(mine.flatMap((r) => (r.serial ? expand(r.serial, r.count) : [])));
		const lots = new Map<string, string>();
		for (const r of mine) if (!r.serial && r.lot) lots.set(r.lot, add(lots.get(r.lot) ?? '0', r.qty));
		const missing = [...expected].filter((s) => !a.serials.has(s));
		const missingLots = [...lots].filter(([n, q]) => less(a.lots.get(n) ?? '0', q));
		const extra = [...a.serials].filter((s) => !expected.has(s)).concat([...a.lots.keys()].filter((n) => !lots.has(n)));
		for (const row of rows.filter((x) => x.lineId === l.id)) {
			const kind = expected.size ? 'serial' : 'lot';
			const numbers = expected.size
				? row.serials.filter((s) => !expected.has(s))
				: row.lot && lots.size && !lots.has(row.lot)
					? [row.lot]
					: [];
			for (const number of numbers)
				odd.push({
					row,
					found: found(notAnnounced, {}, { line: -1, about: { kind, number }, level: policy[notAnnounced.code] })
				});
		}
		lines.set(l.id, {
			expected: expected.size + lots.size,
			arrived: expected.size - missing.length + lots.size - missingLots.length,
			missing: [
				...compress(missing).map(text),
				...missingLots.map(([n, q]) =>
					`${n}: ${rest(q, a.lots.get(n) ?? '0')} ${l.unit === 'each' ? '' : l.unit}`.trim()
				)
			],
			extra: compress(extra).map(text),
			pallets: [...new Set(mine.flatMap((r) => r.pallet ?? []))]
		});
	}
	return { name: notice.name, at: notice.at, by: notice.by, lines, odd };
}

/**
 * Puts announced numbers that have not arrived yet into the sheet, as if each had been scanned.
 * @returns the ids of the new rows; none when all have arrived
 * @throws Problem when nothing of the kind is announced
 */
export async function enterAnnounced(
	sql: Db,
	by: string,
	order: Order,
	what: { lineId?: string; pallet?: string }
): Promise<{ ids: string[]; numbers: number }> {
	const notice = await newest(sql, order.id);
	const wanted = (notice?.rows ?? []).filter(
		(r) => (!what.lineId || r.lineId === what.lineId) && (!what.pallet || r.pallet === what.pallet)
	);
	if (!wanted.length)
		throw new Problem(
			what.pallet
				? `No pallet ${what.pallet} is announced for this delivery. Scan the labels on it.`
				: 'Nothing is announced for this line.'
		);
	const drafts = (await readDrafts(sql, order.id)).map((d) => ({
		lineId: d.lineId,
		lot: d.data.lot ?? '',
		qty: d.data.qty ?? '',
		serials: everySerial(d.data)
	}));
	const arrived = await arrivedOf(sql, order, drafts);
	let numbers = 0;
	const rows = wanted.flatMap((r): { lineId: string; data: RowData }[] => {
		const a = arrived.get(r.lineId)!;
		const facts = { ...(r.expiresOn ? { expiresOn: r.expiresOn } : {}), ...(r.madeOn ? { madeOn: r.madeOn } : {}) };
		const line = order.lines.find((l) => l.id === r.lineId)!;
		const lot = r.lot && line.carries.includes('lot') ? { lot: r.lot } : {};
		if (r.serial && line.tracking.includes('serial')) {
			const open = expand(r.serial, r.count).filter((s) => !a.serials.has(s));
			numbers += open.length;
			return compress(open).map((x) => ({
				lineId: r.lineId,
				data: { ...lot, serial: x.first, count: x.count, ...facts, reported: true }
			}));
		}
		const open = r.lot ? rest(r.qty, a.lots.get(r.lot) ?? '0') : r.qty;
		if (r.lot) a.lots.set(r.lot, '0');
		if (open === '0') return [];
		numbers++;
		return [{ lineId: r.lineId, data: { ...lot, qty: open, ...facts, reported: true } }];
	});
	const ids = await insertRows(sql, by, order.id, rows);
	await notify(sql, order.code);
	return { ids, numbers };
}

/** What a request about a notice asks. @throws Problem naming each field */
export const parseNotice = (input: unknown) => parse(noticeInput, input);

/** Enters what is announced on a pallet. */
export const enterPallet = (tx: Tx, by: string, order: Order, sscc: string) =>
	enterAnnounced(tx, by, order, { pallet: sscc });

/** Enters what was announced and has not arrived, one at a time into one sheet. */
export const enterFromNotice = (sql: Sql, by: string, order: Order, what: { lineId?: string; pallet?: string }) =>
	transaction(sql, async (tx) => {
		await lockSheet(tx, order.id);
		return enterAnnounced(tx, by, order, what);
	});
