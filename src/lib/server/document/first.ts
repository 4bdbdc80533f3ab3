import type { Kind } from '../../core/document/kinds.ts';
import { add, least, less, rest } from '../../core/quantity/quantity.ts';
import type { Db } from '../database/connect.ts';
import { builders } from '../builders.ts';
import { idOf } from '../request.ts';
import { insertRows } from '../sheet/drafts.ts';
import { getOrder } from './orders.ts';

/** What a document is begun with: one number, or what an event moved. */
export interface First {
	partner: string;
	lines: { item: string; qty: string }[];
	/** the number, or the document of the event, that it is about */
	about: string;
	/** ids of either, for the form to send back */
	mark: string | null;
	event: string | null;
}

/** Reads what an address says that a document is begun with; null where it says nothing, or nothing that is there. */
export async function firstOf(sql: Db, kind: Kind, url: URL): Promise<First | null> {
	const [mark, event] = [idOf(url.searchParams.get('mark')), idOf(url.searchParams.get('event'))];
	if (mark) {
		const [found] = await sql<{ item: string; number: string; qty: string }[]>`
			SELECT i.code AS item, k.number, CASE WHEN k.kind = 'serial' THEN '1' ELSE '' END AS qty FROM mark_now k JOIN item i ON i.id = k.item_id WHERE k.id = ${mark}`;
		if (!found) return null;
		const { item, qty, number } = found;
		const partner = await builders[kind].partnerOf?.(sql, mark);
		return { partner: partner ?? '', lines: [{ item, qty }], about: number, mark, event: null };
	}
	if (!event) return null;
	const lines = await sql<{ item: string; qty: string; partner: string | null; document: string | null }[]>`
		SELECT i.code AS item, trim_scale(sum(m.qty))::text AS qty, q.code AS partner, e.document
		FROM event e JOIN line_done m ON m.event_id = e.id AND m.qty > 0 JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id LEFT JOIN partner q ON q.id = e.partner_id
		WHERE e.id = ${event} GROUP BY i.code, q.code, e.document ORDER BY min(m.order_line_id)`;
	if (!lines.length) return null;
	const [{ partner, document }] = lines;
	return {
		partner: partner ?? '',
		lines: lines.map(({ item, qty }) => ({ item, qty })),
		about: document ?? '',
		mark: null,
		event
	};
}

/**
 * Enters what a document is begun with into its lines, as far as it may be taken: one number only where it lies in one place,
 * of an event whatever is still there.
 */
export async function enterFirst(
	sql: Db,
	by: string,
	code: string,
	first: { mark: string | null; event: string | null }
): Promise<void> {
	const order = await getOrder(sql, code);
	if (!order || (!first.mark && !first.event)) return;
	const wanted = first.mark
		? [{ mark: first.mark, qty: null }]
		: await sql<{ mark: string; qty: string | null }[]>`
			SELECT m.mark_id AS mark, trim_scale(sum(m.qty))::text AS qty FROM line_done m WHERE m.event_id = ${first.event} AND m.qty > 0 GROUP BY m.mark_id ORDER BY min(m.order_line_id), m.mark_id`;
	const marks = wanted.map((w) => w.mark);
	const stock = (await builders[order.kind].takes?.(sql, order, 'both', { marks }))?.stock ?? [];
	const entered = new Map<string, string>();
	const rows = wanted.flatMap((w) => {
		const there = stock.filter((s) => s.mark === w.mark);
		const line = order.lines.find((l) => l.itemId === there[0]?.itemId);
		if (!line || (first.mark && there.length !== 1)) return [];
		let left = w.qty ?? line.qty;
		return there.flatMap((s) => {
			const before = entered.get(line.id) ?? '0';
			const qty = least(least(left, s.qty), rest(line.qty, before));
			if (!less('0', qty)) return [];
			left = rest(left, qty);
			entered.set(line.id, add(before, qty));
			return [{ lineId: line.id, data: { mark: s.mark, place: s.place, qty } }];
		});
	});
	await insertRows(sql, by, order.id, rows);
}
