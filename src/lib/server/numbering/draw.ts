import { randomUUID } from 'node:crypto';
import { z } from 'zod';
import type { Db, Sql, Tx } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { inWords, readBack, render, scope, type Block, type Context } from '../../core/numbering/pattern.ts';
import { compress, expand } from '../../core/ranges/ranges.ts';
import { less, rest, sub } from '../../core/quantity/quantity.ts';
import { parse } from '../people/people.ts';
import { lockSheet, notify, readDrafts, rowData, type RowData } from '../orders/drafts.ts';
import { releasedFor } from './released.ts';
import type { Order, OrderLine } from '../orders/orders.ts';
import { today } from '../orders/sheet.ts';

interface Wanted {
	pattern: { id: string; blocks: Block[] };
	item: { id: string; code: string };
	kind: 'lot' | 'serial';
	count: number;
	context: Context;
	order: string | null;
	/** the order's line that they are drawn for */
	line?: string;
}
/** The most numbers one draw gives. */
export const MOST_DRAWN = 10_000;

/**
 * Draws numbers: no two draws give the same one, and each is written down with who drew it. Numbers that exist already
 * are passed over. The counter stays locked until the transaction ends, so that a draw that fails draws nothing.
 * @throws Problem when the sequence has run out
 */
export async function draw(tx: Db, by: string, wanted: Wanted): Promise<string[]> {
	const { pattern, item, kind, count, context } = wanted;
	const key = scope(pattern.blocks, context);
	await tx`INSERT INTO number_counter (pattern_id, scope, last) VALUES (${pattern.id}, ${key}, 0) ON CONFLICT DO NOTHING`;
	const [counter] = await tx<{ last: string }[]>`
		SELECT last FROM number_counter WHERE pattern_id = ${pattern.id} AND scope = ${key} FOR UPDATE`;
	let at = Number(counter.last);
	const drawn: { number: string; sequence: number }[] = [];
	while (drawn.length < count) {
		const candidates: { number: string; sequence: number }[] = [];
		try {
			for (const most = at + Math.max(count - drawn.length, 500); at < most; ) candidates.push({ sequence: ++at, number: render(pattern.blocks, context, at) }); // prettier-ignore
		} catch (e) {
			if (!candidates.length) throw new Problem((e as Error).message);
		}
		const taken = new Set(
			(
				await tx<{ number: string }[]>`
				SELECT coalesce(serial_no, lot_no) AS number FROM mark WHERE item_id = ${item.id} AND kind = ${kind} AND number = ANY(${candidates.map((c) => c.number)})
				UNION SELECT number FROM drawn_number WHERE item_id = ${item.id} AND kind = ${kind} AND number = ANY(${candidates.map((c) => c.number)})`
			).map((r) => r.number)
		);
		drawn.push(...candidates.filter((c) => !taken.has(c.number)).slice(0, count - drawn.length));
	}
	await tx`UPDATE number_counter SET last = ${drawn[drawn.length - 1].sequence} WHERE pattern_id = ${pattern.id} AND scope = ${key}`;
	await tx`INSERT INTO drawn_number (pattern_id, item_id, kind, number, scope, sequence, order_id, line_id, drawn_by)
		SELECT ${pattern.id}::bigint, ${item.id}::bigint, ${kind}::text, n, ${key}::text, s, ${wanted.order}::bigint, ${wanted.line ?? null}::bigint, ${by}::text
		FROM unnest(${drawn.map((d) => d.number)}::text[], ${drawn.map((d) => d.sequence)}::bigint[]) x(n, s)`;
	return drawn.map((d) => d.number);
}

/** Where numbers for an order are drawn: its site, and the bin or line within it. */
export const contextOf = (item: string, place: string | null): Context => {
	const [site = '', line = ''] = (place ?? '').split('/');
	return { day: today(), item, site, line };
};

export const drawInput = z.strictObject({
	lineId: z.string().regex(/^\d+$/),
	count: z
		.number()
		.int()
		.min(1)
		.max(MOST_DRAWN, `One draw gives at most ${MOST_DRAWN.toLocaleString('en')} numbers.`),
	/** the lot that new serials belong to; drawn too when empty and the item has a pattern for lots */
	lot: z.string().trim().max(60).optional(),
	/** for a lot: how much of it, and when it expires; as typed */
	qty: z.string().max(200).optional(),
	expiresOn: z.string().max(200).optional(),
	/** what else stands in the fields: it goes with every row that is drawn */
	supplierLot: z.string().max(200).optional(),
	place: z.string().max(200).optional(),
	facts: rowData.shape.facts,
	/** draws one lot, for the serials in the sheet that have none */
	group: z.literal(true).optional()
});

/**
 * Draws the next numbers for a line and puts them into its sheet, in one transaction: what was drawn is in the sheet,
 * or was not drawn.
 * @returns the ids of the new rows
 */
export async function drawRows(sql: Sql, by: string, order: Order, input: unknown): Promise<string[]> {
	const want = parse(drawInput, input);
	const line = order.lines.find((l) => l.id === want.lineId);
	if (!line) throw new Problem('This line is not part of the order any more. Reload the page.', 409);
	const serials = line.tracking.includes('serial');
	const pattern = serials && !want.group ? line.serialPattern : line.lotPattern;
	if (!pattern) throw new Problem(`${line.itemName} has no number pattern for its ${serials && !want.group ? 'serials' : 'lots'}. Choose one in Setup, Items, or type the numbers.`); // prettier-ignore
	return sql.begin(async (raw) => {
		const tx = raw as unknown as Tx;
		await tx`SELECT 1 FROM orders WHERE id = ${order.id} FOR SHARE`;
		const base = {
			item: { id: line.itemId, code: line.item },
			context: contextOf(line.item, order.place),
			order: order.id
		};
		if (want.group) return group(tx, by, order, line, base);
		let lot = want.lot || undefined;
		if (serials && line.tracking.includes('lot') && !lot) {
			if (!line.lotPattern) throw new Problem([{ message: `${line.itemName} needs a lot too. Type it, then take the serials.`, at: 'lot' }]); // prettier-ignore
			[lot] = await draw(tx, by, { ...base, pattern: line.lotPattern, kind: 'lot', count: 1 });
		}
		// What was drawn when the order was released comes first.
		await lockSheet(tx, order.id);
		const waiting = (await releasedFor(tx, order, await readDrafts(tx, order.id), line.id)).get(line.id)?.numbers ?? [];
		const numbers = waiting.slice(0, want.count);
		const more = want.count - numbers.length;
		if (more)
			numbers.push(...(await draw(tx, by, { ...base, pattern, kind: serials ? 'serial' : 'lot', count: more })));
		const { supplierLot, place, facts, expiresOn } = want;
		const same: RowData = {
			...(expiresOn?.trim() ? { expiresOn: expiresOn.trim() } : {}),
			...(supplierLot?.trim() ? { supplierLot: supplierLot.trim() } : {}),
			...(place?.trim() ? { place: place.trim() } : {}),
			...(facts && Object.keys(facts).length ? { facts } : {})
		};
		const rows: RowData[] = serials
			? compress(numbers).map((r) => ({ ...(lot ? { lot } : {}), serial: r.first, count: r.count, ...same }))
			: (await shares(tx, order, line.id, numbers.length, want.qty)).map((qty, i) => ({
					...{ lot: numbers[i], qty, ...same }
				}));
		const ids = rows.map(() => randomUUID() as string);
		await tx`INSERT INTO draft_row (id, order_id, line_id, data, changed_by)
			SELECT n.id, ${order.id}::bigint, ${line.id}::bigint, n.data::jsonb, ${by}::text
			FROM unnest(${ids}::uuid[], ${rows.map((r) => JSON.stringify(r))}::text[]) WITH ORDINALITY n(id, data, pos) ORDER BY pos`;
		await notify(tx, order.code);
		return ids;
	}) as Promise<string[]>;
}

/** Draws a lot and puts the serials of a line that have none into it. @returns the ids of the rows it changed */
async function group(
	tx: Tx,
	by: string,
	order: Order,
	line: OrderLine,
	base: Omit<Wanted, 'pattern' | 'kind' | 'count'>
): Promise<string[]> {
	await lockSheet(tx, order.id);
	const bare = (await readDrafts(tx, order.id)).filter((d) => d.lineId === line.id && d.data.serial && !d.data.lot);
	if (!bare.length) throw new Problem('Every serial of this line has a lot already.', 409);
	const [lot] = await draw(tx, by, { ...base, pattern: line.lotPattern!, kind: 'lot', count: 1 });
	await tx`UPDATE draft_row SET data = data || ${JSON.stringify({ lot })}::text::jsonb, version = version + 1, changed_by = ${by}, changed_at = now()
		WHERE id = ANY(${bare.map((d) => d.id)}::uuid[])`;
	await notify(tx, order.code);
	return bare.map((d) => d.id);
}

/** The first lot takes what was typed, or what is still open; further ones are empty, to be typed. */
async function shares(tx: Db, order: Order, lineId: string, count: number, typed?: string): Promise<string[]> {
	const line = order.lines.find((l) => l.id === lineId)!;
	let open = less(line.done, line.qty) ? sub(line.qty, line.done) : '0';
	for (const d of await readDrafts(tx, order.id)) if (d.lineId === lineId && /^\d+(\.\d+)?$/.test(d.data.qty ?? '')) open = rest(open, d.data.qty!); // prettier-ignore
	return Array.from({ length: count }, (_, i) => (i ? '' : typed?.trim() || (open === '0' ? '' : open)));
}

export interface DrawnRow {
	number: string;
	kind: 'lot' | 'serial';
	item: string;
	pattern: string;
	by: string;
	at: string;
	order: { code: string; kind: string } | null;
	says: string;
	/** what became of it */
	became: 'booked' | 'in a sheet' | 'not used';
	mark: string | null;
}
/** The register of drawn numbers, newest first, a page at a time. */
export async function drawnNumbers(
	sql: Db,
	search = '',
	before: string | null = null
): Promise<{ rows: DrawnRow[]; next: string | null }> {
	const rows = await sql<
		(Omit<DrawnRow, 'says' | 'became' | 'order'> & {
			id: string;
			blocks: Block[];
			orderId: string | null;
			orderCode: string | null;
			orderKind: string | null;
		})[]
	>`
		SELECT d.id, d.number, d.kind, i.code AS item, p.code AS pattern, p.blocks, coalesce(n.name, d.drawn_by) AS by, to_char(d.drawn_at, 'YYYY-MM-DD HH24:MI') AS at,
			o.id AS "orderId", o.code AS "orderCode", o.kind AS "orderKind",
			(SELECT k.id FROM mark k WHERE k.item_id = d.item_id AND k.kind = d.kind AND k.number = d.number) AS mark
		FROM drawn_number d JOIN item i ON i.id = d.item_id JOIN number_pattern p ON p.id = d.pattern_id LEFT JOIN person n ON n.login = d.drawn_by LEFT JOIN orders o ON o.id = d.order_id
		WHERE ${before ? sql`d.id < ${before}` : sql`true`} AND ${search ? sql`(d.number ILIKE ${'%' + search.replace(/[\\%_]/g, '\\$&') + '%'} OR i.code = ${search} OR o.code = ${search})` : sql`true`}
		ORDER BY d.id DESC LIMIT 201`;
	const held = new Set<string>();
	const orders = [...new Set(rows.flatMap((r) => (r.mark || !r.orderId ? [] : [r.orderId])))];
	if (orders.length)
		for (const d of await sql<
			{ data: RowData }[]
		>`SELECT data FROM draft_row WHERE order_id = ANY(${orders}::bigint[])`) {
			if (d.data.lot) held.add(`lot ${d.data.lot}`);
			if (d.data.serial) for (const s of d.data.count && d.data.count > 1 ? expand(d.data.serial, d.data.count, d.data.step) : [d.data.serial]) held.add(`serial ${s}`); // prettier-ignore
		}
	const page = rows.slice(0, 200);
	return {
		next: rows.length > 200 ? page[page.length - 1].id : null,
		rows: page.map((r) => {
			const read = readBack(r.blocks, r.number);
			return {
				...{ number: r.number, kind: r.kind, item: r.item, pattern: r.pattern, by: r.by, at: r.at, mark: r.mark },
				order: r.orderCode ? { code: r.orderCode, kind: r.orderKind! } : null,
				says: 'problem' in read ? '' : inWords(read),
				became: r.mark ? 'booked' : held.has(`${r.kind} ${r.number}`) ? 'in a sheet' : 'not used'
			};
		})
	};
}
