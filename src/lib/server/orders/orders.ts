import type { Db } from '../database/connect.ts';
import { askedAt, type How, type Tracking } from '../../core/marking/rule.ts';
import type { AskedFact } from '../../core/facts/fact.ts';
import type { Block } from '../../core/numbering/pattern.ts';
import { factColumns } from '../setup/facts.ts';

export type OrderKind = 'purchase' | 'production' | 'sale';
export interface OrderRow {
	id: string;
	code: string;
	kind: OrderKind;
	partner: string | null;
	partnerName: string | null;
	place: string | null;
	dueOn: string | null;
	note: string;
	closedAt: string | null;
	lines: number;
	/** what it is about, in words: "Sensor board VB 40 each, Buffer salt 50 kg" */
	content: string;
	started: boolean;
	drafts: number;
}
export interface LinePattern {
	id: string;
	code: string;
	blocks: Block[];
}
export interface OrderLine {
	id: string;
	no: number;
	role: 'goods' | 'output' | 'component';
	item: string;
	itemId: string;
	itemName: string;
	unit: string;
	decimals: number;
	/** the numbers that its marking rule asks at the step that this line is */
	tracking: Tracking;
	/** all numbers that the item carries, and how strongly this step asks each */
	carries: Tracking;
	rule: { lot: How; serial: How; expiry: How };
	/** how strongly this step asks an expiry date; not at all without a number to keep it with */
	expiry: How;
	/** facts that this step asks */
	facts: AskedFact[];
	shelfLife: string | null;
	/** a date worked out is put off to the last day of its month */
	endOfMonth: boolean;
	supplierNumber: 'beside' | 'printed' | 'ours';
	drawnAt: 'sheet' | 'release';
	/** how much of its life must be left when it arrives */
	leastLeft: string | null;
	runMode: 'pooled' | 'unit';
	gtin: string | null;
	lotPattern: LinePattern | null;
	serialPattern: LinePattern | null;
	/** what a number that does not fit its pattern means */
	misfit: 'stop' | 'reason' | 'note';
	qty: string;
	/** booked so far, net of what was undone */
	done: string;
}
export interface Order extends Omit<OrderRow, 'lines' | 'content' | 'started' | 'drafts'> {
	lines: OrderLine[];
}

/**
 * Orders of one kind, open ones by due date, then the last hundred that are closed.
 * @param search part of a code, a partner's or an item's name
 */
export const listOrders = (sql: Db, kind: OrderKind, search = '', closed = false) => sql<OrderRow[]>`
	SELECT o.id, o.code, o.kind, p.code AS partner, p.name AS "partnerName", l.code AS place, o.due_on AS "dueOn", o.note,
		to_char(o.closed_at, 'YYYY-MM-DD') AS "closedAt", n.lines, n.content,
		EXISTS (SELECT 1 FROM event e WHERE e.order_id = o.id AND e.kind <> 'undo' AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id)) AS started,
		(SELECT count(*)::int FROM draft_row d WHERE d.order_id = o.id) AS drafts
	FROM orders o LEFT JOIN partner p ON p.id = o.partner_id LEFT JOIN place l ON l.id = o.place_id
	CROSS JOIN LATERAL (SELECT count(*)::int AS lines,
		string_agg(i.name || ' ' || trim_scale(x.qty)::text || ' ' || i.unit, ', ' ORDER BY x.no) FILTER (WHERE x.role <> 'component') AS content
		FROM order_line x JOIN item i ON i.id = x.item_id WHERE x.order_id = o.id) n
	WHERE o.kind = ${kind} AND (o.closed_at IS NOT NULL) = ${closed}
		${search ? sql`AND (o.code || ' ' || coalesce(p.name, '') || ' ' || coalesce(n.content, '')) ILIKE ${'%' + like(search) + '%'}` : sql``}
	ORDER BY ${closed ? sql`o.closed_at DESC` : sql`o.due_on NULLS LAST`}, o.code COLLATE natural_order LIMIT ${closed ? 100 : 500}`;

/** Text for the inside of a LIKE pattern. */
export const like = (text: string) => text.replace(/[\\%_]/g, '\\$&');

/** One order with its lines and what is booked of each; null when there is none of that code. */
export async function getOrder(sql: Db, code: string): Promise<Order | null> {
	const [order] = await sql<Order[]>`
		SELECT o.id, o.code, o.kind, p.code AS partner, p.name AS "partnerName", l.code AS place, o.due_on AS "dueOn", o.note,
			to_char(o.closed_at, 'YYYY-MM-DD') AS "closedAt"
		FROM orders o LEFT JOIN partner p ON p.id = o.partner_id LEFT JOIN place l ON l.id = o.place_id WHERE o.code = ${code}`;
	if (!order) return null;
	const lines = await sql<
		(Omit<OrderLine, 'tracking' | 'rule' | 'expiry' | 'facts'> & { rules: Record<string, OrderLine['rule']> | null })[]
	>`
		SELECT x.id, x.no, x.role, i.code AS item, i.id AS "itemId", i.name AS "itemName", i.unit, i.decimals, i.tracking AS carries,
			(SELECT json_object_agg(r.step, json_build_object('lot', r.lot, 'serial', r.serial, 'expiry', r.expiry)) FROM item_rule r WHERE r.item_id = i.id) AS rules,
			i.shelf_life AS "shelfLife", i.end_of_month AS "endOfMonth", i.supplier_number AS "supplierNumber", i.drawn_at AS "drawnAt", i.run_mode AS "runMode", i.gtin, i.misfit, i.least_left AS "leastLeft",
			(SELECT json_build_object('id', p.id::text, 'code', p.code, 'blocks', p.blocks) FROM number_pattern p WHERE p.id = i.lot_pattern_id) AS "lotPattern",
			(SELECT json_build_object('id', p.id::text, 'code', p.code, 'blocks', p.blocks) FROM number_pattern p WHERE p.id = i.serial_pattern_id) AS "serialPattern",
			trim_scale(x.qty)::text AS qty,
			(SELECT coalesce(trim_scale(sum(m.qty)), 0)::text FROM effective_movement m WHERE m.order_line_id = x.id) AS done
		FROM order_line x JOIN item i ON i.id = x.item_id WHERE x.order_id = ${order.id} ORDER BY x.no`;
	const step = { goods: order.kind === 'sale' ? 'shipment' : 'receipt', output: 'production output', component: 'production use' }; // prettier-ignore
	const asked = await sql<(AskedFact & { item: string; step: string })[]>`
		SELECT x.item_id AS item, x.step, x.how, ${factColumns(sql)} FROM item_fact x JOIN fact f ON f.id = x.fact_id
		WHERE x.item_id = ANY(${lines.map((l) => l.itemId)}::bigint[]) ORDER BY f.name`;
	order.lines = lines.map(({ rules, ...l }) => {
		const at = step[l.role];
		const rule = rules?.[at] ?? { lot: 'not asked', serial: 'not asked', expiry: 'not asked' };
		const tracking = askedAt(l.carries, rule);
		// What carries no number at this step has nothing that a date or a fact could be kept with; stock that leaves may.
		const kept = tracking !== 'none' || at === 'shipment' || at === 'production use';
		return {
			...{ ...l, rule, tracking, expiry: kept ? rule.expiry : 'not asked' },
			facts: kept ? asked.filter((f) => f.item === l.itemId && f.step === at).map(({ item: _i, step: _s, ...f }) => f) : [] // prettier-ignore
		};
	});
	return order;
}

/** The events booked on an order, newest first. */
export const orderEvents = (sql: Db, orderId: string) => sql<
	{ id: string; kind: string; at: string; by: string; undone: boolean; movements: number; document: string | null }[]
>`
	SELECT e.id, e.kind, to_char(e.at AT TIME ZONE 'UTC', 'YYYY-MM-DD HH24:MI') AS at, coalesce(n.name, e.recorded_by) AS by, e.document,
		EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id) AS undone,
		(SELECT count(*)::int FROM movement m WHERE m.event_id = e.id) AS movements
	FROM event e LEFT JOIN person n ON n.login = e.recorded_by WHERE e.order_id = ${orderId} ORDER BY e.id DESC LIMIT 50`;

/** Closes an order whose goods or output are all booked, and opens it again when an undo took some back. */
export async function settleOrder(sql: Db, orderId: string) {
	await sql`
		UPDATE orders o SET closed_at = CASE WHEN n.complete THEN (SELECT max(e.at) FROM event e WHERE e.order_id = o.id) END FROM (
			SELECT bool_and(coalesce(d.qty, 0) >= x.qty) AS complete FROM order_line x
			LEFT JOIN LATERAL (SELECT sum(m.qty) AS qty FROM effective_movement m WHERE m.order_line_id = x.id) d ON true
			WHERE x.order_id = ${orderId} AND x.role <> 'component') n
		WHERE o.id = ${orderId} AND (o.closed_at IS NOT NULL) <> n.complete`;
}
