import { createHash } from 'node:crypto';
import { transaction, type Sql } from '../database/connect.ts';
import { group } from '../../core/group/group.ts';
import { total } from '../../core/quantity/quantity.ts';
import { weigh } from '../../core/weight/weight.ts';
import { dayIn, timeIn } from '../../core/time/clock.ts';
import { documentKind } from '../../core/document/kinds.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { can } from '../../core/people/can.ts';
import { getOrder, type Order } from '../document/orders.ts';
import { walkOf } from '../../core/sheet/walk.ts';
import { headNow } from '../ledger/seal.ts';
import { sheetState } from '../sheet/state.ts';
import { inThread } from '../work/pool.ts';
import type { Packed, PackingPaper, TermsPaper } from './paper.ts';
import { agreedOn, replacedBy, warrantyUntil, type Agreed } from './sale.ts';

/** A paper of what has gone. */
export const PAPERS = ['packing list', 'delivery note'] as const;
/** One of them. */
export type PaperKind = (typeof PAPERS)[number];

/** The pick list of an order, as its sheet shows it. @returns the PDF; null when nothing leaves by it with papers */
export async function pickList(sql: Sql, code: string): Promise<Uint8Array | null> {
	const order = await getOrder(sql, code);
	if (!order || !documentKind(order.kind).packs) return null;
	const walk = walkOf((await sheetState(sql, code, 'use')).lines);
	const packed = walk.map((w): Packed => ({ ...NOTHING_SAID, ...w, order: order.code, number: '' }));
	const paper = {
		...headOfPaper(order),
		title: 'Pick list',
		packed,
		walk,
		weighed: weighedOf([order], packed),
		on: order.dueOn
	};
	return inThread('packing', { ...paper, signed: null, head: null });
}

/**
 * The packing list or the delivery note of what an event shipped, of all the orders that it was of. Consecutive serials
 * stand as ranges. It is kept as it was printed; the same content again is the same paper, and what was corrected or signed
 * meanwhile makes another one.
 * @param by who prints it; null for somebody who only reads, for whom nothing new is kept
 * @param event id of the shipment
 * @returns the PDF; null when there is no such order or shipment
 */
export async function shippingPaper(
	sql: Sql,
	by: string | null,
	code: string,
	event: string,
	kind: PaperKind
): Promise<Uint8Array | null> {
	const order = await getOrder(sql, code);
	const leaves = order && documentKind(order.kind).packs;
	if (!leaves) return null;
	const [shipped] = await sql<{ at: Date }[]>`
		SELECT at FROM event e WHERE id = ${event} AND kind = ${leaves} AND EXISTS (SELECT 1 FROM movement m JOIN order_line l ON l.id = m.order_line_id AND l.order_id = ${order.id} JOIN place f ON f.id = m.from_place AND NOT f.transit WHERE m.event_id = e.id)
			AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id)`;
	if (!shipped) return null;
	const rows = await sql<(Omit<Packed, 'warrantyUntil'> & { lasts: string | null })[]>`
		SELECT o.code AS order, l.no, i.code AS item, i.name AS "itemName", i.unit, k.kind, coalesce(k.number, '') AS number, k.of_lot AS lot, trim_scale(m.qty)::text AS qty,
			k.expires_on AS "expiresOn", f.code AS place, l.price, coalesce(l.warranty, i.warranty) AS lasts,
			${replacedBy(sql)} AS replaces
		FROM movement m JOIN mark_now k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id JOIN order_line l ON l.id = m.order_line_id JOIN orders o ON o.id = l.order_id
		JOIN place f ON f.id = m.from_place AND f.code <> '@customer' WHERE m.event_id = ${event} ORDER BY o.id, l.no, m.id`;
	// Who packs wants neither price nor warranty.
	const packed = rows.map(({ lasts, ...r }): Packed =>
		kind === 'packing list'
			? { ...r, price: '', warrantyUntil: null }
			: { ...r, warrantyUntil: warrantyUntil(shipped.at, order.zone, lasts) }
	);
	const codes = [...new Set(rows.map((r) => r.order))];
	const orders = await Promise.all(codes.map(async (c) => (c === order.code ? order : (await getOrder(sql, c))!)));
	const [signed] =
		kind === 'delivery note'
			? await sql<{ signer: string; at: Date; svg: string }[]>`
				SELECT s.signer, s.at, convert_from(f.content, 'UTF8') AS svg FROM signature s JOIN stored_file f USING (sha256) WHERE s.event_id = ${event}`
			: [];
	const paper = {
		...headOfPaper(order),
		code: codes.join(', '),
		title: kind === 'packing list' ? 'Packing list' : 'Delivery note',
		packed,
		walk: null,
		weighed: weighedOf(orders, packed),
		on: dayIn(order.zone, shipped.at),
		signed: signed ? { ...signed, at: timeIn(order.zone, signed.at), says: 'Received by' } : null
	};
	return printed(sql, by, { kind, order: order.id, event }, paper);
}

/** What stands on no pick list. */
const NOTHING_SAID = { price: '', warrantyUntil: null, replaces: null };
const headOfPaper = (order: Order) => ({
	code: order.code,
	partnerName: order.partnerName ?? order.to,
	did: documentKind(order.kind).packs === 'supplier return' ? 'Sent back' : 'Shipped'
});
/** What the goods of some orders weigh, and what the first asks for carriage. */
const weighedOf = (orders: readonly Order[], packed: readonly Packed[]) =>
	weigh(
		[...group([...packed], (p) => `${p.order} ${p.no}`).values()].map((list) => {
			const [{ order, no }] = list;
			const of = orders.find((o) => o.code === order)!.lines.find((l) => l.no === no)!;
			return { no, qty: total(list.map((p) => p.qty)), measures: of.measures };
		}),
		orders[0].way,
		orders[0].divisor
	);

/**
 * What a customer agreed to: the lines of an order with price and warranty, the firm's terms, and the signature, as they were
 * signed. Before that it is printed with a line to sign on, and not kept.
 * @returns the PDF; null when there is no such sale, or the firm has no terms
 */
export async function termsPaper(sql: Sql, by: string | null, code: string): Promise<Uint8Array | null> {
	const order = await getOrder(sql, code);
	if (!order || !documentKind(order.kind).sells) return null;
	const [said] = await sql<
		{ terms: string; agreed: Agreed | null; signer: string | null; at: Date | null; svg: string | null }[]
	>`
		SELECT coalesce(s.terms, f.terms) AS terms, s.agreed, s.signer, s.at, convert_from(x.content, 'UTF8') AS svg
		FROM firm f LEFT JOIN signature s ON s.order_id = ${order.id} AND s.meaning = 'terms' LEFT JOIN stored_file x USING (sha256)`;
	if (!said.terms) return null;
	const signed = said.signer
		? { signer: said.signer, at: timeIn(order.zone, said.at!), svg: said.svg!, says: 'Agreed to by' }
		: null;
	const paper = { code: order.code, ...(said.agreed ?? agreedOn(order)), terms: said.terms, signed };
	if (!signed) return inThread('terms', { ...paper, head: null });
	const of = { kind: 'terms' as const, order: order.id, event: null };
	return printed(sql, by, of, paper);
}

/** Whose name a paper is kept under that somebody asks for; none where they only read. */
export const printer = ({ name, role }: Actor): string | null => (can(role, 'print labels') ? name : null);

/** Which paper it is: of an order, and of what has gone by an event. */
interface PaperOf {
	kind: PaperKind | 'terms';
	order: string;
	event: string | null;
}
/** Draws a paper with the head of the ledger, and keeps it; the same content again is the same paper. */
async function printed(
	sql: Sql,
	by: string | null,
	of: PaperOf,
	paper: Omit<PackingPaper, 'head'> | Omit<TermsPaper, 'head'>
): Promise<Uint8Array> {
	const content = createHash('sha256').update(JSON.stringify(paper)).digest('hex');
	const before = await printedBefore(sql, of, content);
	if (before) return before;
	const head = await headNow(sql);
	const pdf =
		'terms' in paper ? await inThread('terms', { ...paper, head }) : await inThread('packing', { ...paper, head });
	if (by === null) return pdf;
	await keepPaper(sql, by, { ...of, content }, pdf);
	return (await printedBefore(sql, of, content)) ?? pdf;
}

/** The same paper as it was printed before. */
async function printedBefore(sql: Sql, of: PaperOf, content: string): Promise<Uint8Array | null> {
	const [paper] = await sql<{ content: Uint8Array }[]>`
		SELECT f.content FROM paper p JOIN stored_file f ON f.sha256 = p.sha256
		WHERE p.kind = ${of.kind} AND p.content = ${content} AND ${of.event ? sql`p.event_id = ${of.event}` : sql`p.event_id IS NULL AND p.order_id = ${of.order}`}`;
	return paper?.content ?? null;
}
/** Keeps a paper as it was printed, with the numbers that stand on it. */
const keepPaper = (sql: Sql, by: string, of: PaperOf & { content: string }, pdf: Uint8Array) =>
	transaction(sql, async (tx) => {
		const sha256 = createHash('sha256').update(pdf).digest('hex');
		await tx`INSERT INTO stored_file (sha256, type, content, added_by) VALUES (${sha256}, 'application/pdf', ${Buffer.from(pdf)}, ${by}) ON CONFLICT DO NOTHING`;
		await tx`
			WITH made AS (INSERT INTO paper (kind, order_id, event_id, content, sha256, made_by)
				VALUES (${of.kind}, ${of.order}, ${of.event}, ${of.content}, ${sha256}, ${by}) ON CONFLICT DO NOTHING RETURNING id)
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
