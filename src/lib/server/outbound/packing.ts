import { createHash } from 'node:crypto';
import { transaction, type Sql } from '../database/connect.ts';
import { group } from '../../core/group/group.ts';
import { total } from '../../core/quantity/quantity.ts';
import { weigh } from '../../core/weight/weight.ts';
import { dayIn } from '../../core/time/clock.ts';
import { documentKind } from '../../core/document/kinds.ts';
import { getOrder } from '../document/orders.ts';
import { walkOf, type Stop } from '../../core/sheet/walk.ts';
import { headNow } from '../ledger/seal.ts';
import { sheetState } from '../sheet/state.ts';
import { inThread } from '../work/pool.ts';
import type { Packed } from './paper.ts';

/**
 * A printable list of what goes: the packing list of one shipment, or before that the pick list as the sheet shows it.
 * Consecutive serials stand as ranges. A packing list is kept as it was printed; the same content again is the same paper,
 * and what was corrected meanwhile makes another one.
 * @param by who prints it
 * @param event id of the shipment; null for the pick list
 * @returns the PDF; null when there is no such order or shipment
 */
export async function packingList(
	sql: Sql,
	by: string,
	code: string,
	event: string | null
): Promise<Uint8Array | null> {
	const order = await getOrder(sql, code);
	const leaves = order && documentKind(order.kind).packs;
	if (!leaves) return null;
	let packed: Packed[];
	let walk: Stop[] | null = null;
	let when = '';
	if (event) {
		const [shipped] = await sql<{ at: Date }[]>`
			SELECT at FROM event e WHERE id = ${event} AND order_id = ${order.id} AND kind = ${leaves}
				AND EXISTS (SELECT 1 FROM movement m JOIN place f ON f.id = m.from_place AND NOT f.transit WHERE m.event_id = e.id) AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id)`;
		if (!shipped) return null;
		when = dayIn(order.zone, shipped.at);
		packed = await sql<Packed[]>`
			SELECT l.no, i.code AS item, i.name AS "itemName", i.unit, k.kind, coalesce(k.number, '') AS number, k.of_lot AS lot, trim_scale(m.qty)::text AS qty,
				k.expires_on AS "expiresOn", f.code AS place
			FROM movement m JOIN mark_now k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
			JOIN order_line l ON l.id = m.order_line_id JOIN place f ON f.id = m.from_place WHERE m.event_id = ${event} ORDER BY l.no, m.id`;
	} else {
		walk = walkOf((await sheetState(sql, code, 'use')).lines);
		packed = walk.map((w) => ({ ...w, number: '' }));
	}
	const paper = {
		code: order.code,
		partnerName: order.partnerName ?? order.to,
		did: leaves === 'supplier return' ? 'Sent back' : 'Shipped',
		packed,
		walk,
		weighed: weigh(
			[...group([...packed], (p) => p.no)].map(([no, list]) => ({
				no,
				qty: total(list.map((p) => p.qty)),
				measures: order.lines.find((l) => l.no === no)!.measures
			})),
			order.way,
			order.divisor
		),
		on: when || order.dueOn
	};
	if (!event) return inThread('packing', { ...paper, head: null });
	const content = createHash('sha256').update(JSON.stringify(paper)).digest('hex');
	const printed = await printedBefore(sql, event, content);
	if (printed) return printed;
	const pdf = await inThread('packing', { ...paper, head: await headNow(sql) });
	await keepPaper(sql, by, { order: order.id, event, content }, pdf);
	return (await printedBefore(sql, event, content)) ?? pdf;
}

/** The same paper as it was printed before. */
async function printedBefore(sql: Sql, event: string, content: string): Promise<Uint8Array | null> {
	const [paper] = await sql<{ content: Uint8Array }[]>`
		SELECT f.content FROM paper p JOIN stored_file f ON f.sha256 = p.sha256
		WHERE p.event_id = ${event} AND p.kind = 'packing list' AND p.content = ${content}`;
	return paper?.content ?? null;
}
/** Keeps a paper as it was printed, with the numbers that stand on it. */
const keepPaper = (sql: Sql, by: string, of: { order: string; event: string; content: string }, pdf: Uint8Array) =>
	transaction(sql, async (tx) => {
		const sha256 = createHash('sha256').update(pdf).digest('hex');
		await tx`INSERT INTO stored_file (sha256, type, content, added_by) VALUES (${sha256}, 'application/pdf', ${Buffer.from(pdf)}, ${by}) ON CONFLICT DO NOTHING`;
		await tx`
			WITH made AS (INSERT INTO paper (kind, order_id, event_id, content, sha256, made_by)
				VALUES ('packing list', ${of.order}, ${of.event}, ${of.content}, ${sha256}, ${by}) ON CONFLICT DO NOTHING RETURNING id)
			INSERT INTO paper_mark (paper_id, mark_id)
				SELECT DISTINCT made.id, n.id FROM made JOIN movement m ON m.event_id = ${of.event} AND m.order_line_id IS NOT NULL
				JOIN mark k ON k.id = m.mark_id AND k.kind <> 'unmarked' CROSS JOIN LATERAL (SELECT k.id UNION SELECT k.parent_id WHERE k.parent_id IS NOT NULL) n(id)`;
	});

/** A paper as it was printed; null when there is none. */
export async function paperKept(sql: Sql, id: string): Promise<{ name: string; content: Uint8Array } | null> {
	const [paper] = await sql<{ code: string; content: Uint8Array }[]>`
		SELECT o.code, f.content FROM paper p JOIN orders o ON o.id = p.order_id JOIN stored_file f ON f.sha256 = p.sha256 WHERE p.id = ${id}`;
	return paper ? { name: `${paper.code}-${id}`, content: paper.content } : null;
}
