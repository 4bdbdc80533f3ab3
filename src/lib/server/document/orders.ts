import type { Db, Tx } from '../database/connect.ts';
import type { ExpiryFrom } from '../../core/ledger/line.ts';
import type { Step } from '../../core/ledger/steps.ts';
import { dayIn, type Zone } from '../../core/time/clock.ts';
import { askedAt, stronger, type How, type Tracking } from '../../core/marking/rule.ts';
import type { AskedFact } from '../../core/facts/fact.ts';
import type { Block } from '../../core/numbering/pattern.ts';
import type { Noted, Todo } from '../../core/sheet/sheet.ts';
import type { Measures, Way } from '../../core/weight/weight.ts';
import { measuresOf } from '../setup/measures.ts';
import { Problem } from '../../core/problem/problem.ts';
import { documentKind, type Kind, type LineRole, type ReasonAct } from '../../core/document/kinds.ts';

/** The pattern that a line’s numbers are drawn by. */
export interface LinePattern {
	id: string;
	code: string;
	blocks: Block[];
}
/** A line with its item, what its marking rule asks, and how far it is. */
export interface OrderLine {
	id: string;
	no: number;
	role: LineRole;
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
	/** how the date of what is made comes about */
	expiryFrom: ExpiryFrom;
	supplierNumber: 'beside' | 'printed' | 'ours';
	drawnAt: 'sheet' | 'release';
	/** what one base unit of it holds, where it can be repacked */
	content: { qty: string; unit: string } | null;
	/** how much of it may be lost in repacking without a reason, in per cent */
	lossTolerance: string;
	/** what one base unit weighs, and how large it is */
	measures: Measures;
	/** what it looks like: the SHA-256 of a file */
	picture: string | null;
	runMode: 'pooled' | 'unit';
	gtin: string | null;
	lotPattern: LinePattern | null;
	serialPattern: LinePattern | null;
	qty: string;
	/** the step of the marking rule that this line is */
	step: Step;
	/** booked so far, net of what was undone */
	done: string;
	/** a scan added it: it is as long as what was scanned for it */
	scanned: boolean;
	/** ISO 8601: its own warranty, and its item's; and its price as it is written */
	warranty: string | null;
	itemWarranty: string | null;
	price: string;
	/** how much of it is on invoices */
	invoiced: string;
	/** name of the customer that it is bought for */
	forPartner: string | null;
}
/** An order with its lines. */
export interface Order {
	id: string;
	code: string;
	kind: Kind;
	partner: string | null;
	partnerName: string | null;
	/** the job it is for */
	job: string | null;
	jobName: string | null;
	place: string | null;
	/** where it goes to, of one that leaves a place for another; its neighbourhood */
	to: string | null;
	toArea: string | null;
	/** what stays to be done after its goods have come or gone */
	todos: Todo[];
	/** payments and invoices, also those that were withdrawn */
	noted: Noted[];
	/** why, of an adjustment or a return, and what that reason is for */
	reason: { name: string; act: ReasonAct } | null;
	dueOn: string | null;
	note: string;
	/** what comes on it stays the property of its partner */
	theirs: boolean;
	closedAt: string | null;
	/** why it was closed before all of it was booked; null where it was not */
	closedShort: string | null;
	lines: OrderLine[];
	/** how it is sent; null where nothing is said */
	way: Way | null;
	/** cm³ that count as a kilogram in this firm */
	divisor: number;
	/** the time zone of its site, or the firm's */
	zone: Zone;
	/** by which version of what is set up it was read */
	setup: string;
	/** the last event on it when it was read; null before the first */
	lastEvent: string | null;
}

/**
 * One order with its lines and what is booked of each: two statements, whatever the number of lines.
 * @returns null when there is none of that code
 */
export async function getOrder(sql: Db, code: string): Promise<Order | null> {
	const [order] = await sql<(Order & { steps: Record<string, string> })[]>`
		SELECT o.id, o.code, o.kind, p.code AS partner, p.name AS "partnerName", j.code AS job, j.name AS "jobName", l.code AS place, d.code AS to, coalesce(ds.area, d.area) AS "toArea",
			CASE WHEN a.id IS NOT NULL THEN json_build_object('name', a.name, 'act', a.act) END AS reason, o.due_on AS "dueOn", o.note, o.theirs,
			coalesce((SELECT json_agg(json_build_object('id', t.id::text, 'what', t.what, 'done', CASE WHEN t.done_at IS NOT NULL THEN json_build_object('at', shown_time(t.done_at), 'by', coalesce(n.name, t.done_by), 'said', t.said) END) ORDER BY t.id)
				FROM todo t LEFT JOIN person n ON n.login = t.done_by WHERE t.order_id = o.id), '[]') AS todos,
			coalesce((SELECT json_agg(json_build_object('id', x.id::text, 'what', x.what, 'number', x.number, 'dated', x.dated, 'by', coalesce(n.name, x.noted_by), 'withdrawn', coalesce(w.name, x.withdrawn_by),
				'lines', coalesce((SELECT json_agg(json_build_object('no', l.no, 'qty', trim_scale(y.qty)::text) ORDER BY l.no) FROM noted_line y JOIN order_line l ON l.id = y.order_line_id WHERE y.noted_id = x.id), '[]')) ORDER BY x.id)
				FROM noted x LEFT JOIN person n ON n.login = x.noted_by LEFT JOIN person w ON w.login = x.withdrawn_by WHERE x.order_id = o.id), '[]') AS noted,
			o.closed_at AS "closedAt", o.closed_short AS "closedShort", coalesce(l.zone, s.zone, f.zone) AS zone, f.weight_divisor AS divisor,
			(SELECT version FROM catalogue) AS setup, ${lastEventOf(sql)} AS "lastEvent",
			CASE WHEN w.id IS NOT NULL THEN json_build_object('code', w.code, 'name', w.name, 'divisor', w.divisor, 'rate', trim_scale(w.rate)::text, 'minimum', trim_scale(w.minimum)::text, 'currency', w.currency) END AS way
		FROM firm f CROSS JOIN orders o LEFT JOIN partner p ON p.id = o.partner_id LEFT JOIN job j ON j.id = o.job_id
		LEFT JOIN place l ON l.id = o.place_id LEFT JOIN place s ON s.id = l.site_id LEFT JOIN place d ON d.id = o.to_place_id LEFT JOIN place ds ON ds.id = d.site_id
		LEFT JOIN delivery_way w ON w.id = o.way_id LEFT JOIN reason a ON a.id = o.reason_id WHERE o.code = ${code}`;
	if (!order) return null;
	if (order.closedAt) order.closedAt = dayIn(order.zone, new Date(order.closedAt));
	const { steps } = documentKind(order.kind);
	const [roles, at] = [Object.keys(steps), Object.values(steps)];
	const lines = await sql<Row[]>`
		SELECT x.id, x.no, x.role, i.code AS item, i.id AS "itemId", i.name AS "itemName", i.unit, i.decimals, i.tracking AS carries, n.step,
			(SELECT json_build_object('lot', r.lot, 'serial', r.serial, 'expiry', r.expiry) FROM item_rule r WHERE r.item_id = i.id AND r.step = n.step) AS rule,
			-- What is found arrives too: a date and the facts that a delivery needs, it needs as well.
			(SELECT r.expiry FROM item_rule r WHERE r.item_id = i.id AND r.step = 'receipt' AND n.step = 'adjustment in') AS arrives,
			coalesce((SELECT json_agg(json_build_object('how', a.how, 'code', f.code, 'name', f.name, 'kind', f.kind, 'unit', f.unit, 'decimals', f.decimals, 'low', trim_scale(f.low)::text,
				'high', trim_scale(f.high)::text, 'choices', f.choices, 'outside', f.outside, 'per', f.per) ORDER BY f.name)
				FROM item_fact a JOIN fact f ON f.id = a.fact_id WHERE a.item_id = i.id AND (a.step = n.step OR n.step = 'adjustment in' AND a.step = 'receipt'
					AND NOT EXISTS (SELECT 1 FROM item_fact o WHERE o.item_id = i.id AND o.fact_id = a.fact_id AND o.step = n.step))), '[]') AS facts,
			i.shelf_life AS "shelfLife", i.end_of_month AS "endOfMonth", i.expiry_from AS "expiryFrom", i.supplier_number AS "supplierNumber", i.drawn_at AS "drawnAt", i.run_mode AS "runMode", i.gtin,
			CASE WHEN i.content_qty IS NOT NULL THEN json_build_object('qty', trim_scale(i.content_qty)::text, 'unit', i.content_unit) END AS content, trim_scale(i.loss_tolerance)::text AS "lossTolerance", i.picture, ${measuresOf(sql)} AS measures,
			(SELECT json_build_object('id', p.id::text, 'code', p.code, 'blocks', p.blocks) FROM number_pattern p WHERE p.id = i.lot_pattern_id) AS "lotPattern",
			(SELECT json_build_object('id', p.id::text, 'code', p.code, 'blocks', p.blocks) FROM number_pattern p WHERE p.id = i.serial_pattern_id) AS "serialPattern",
			trim_scale(x.qty)::text AS qty, x.scanned, x.warranty, i.warranty AS "itemWarranty", x.price,
			(SELECT coalesce(trim_scale(sum(y.qty)), 0)::text FROM noted_line y JOIN noted n ON n.id = y.noted_id AND n.withdrawn_at IS NULL WHERE y.order_line_id = x.id) AS invoiced, (SELECT q.name FROM partner q WHERE q.id = x.for_partner_id) AS "forPartner",
			(SELECT coalesce(trim_scale(sum(d.qty)), 0)::text FROM line_done d WHERE d.order_line_id = x.id) AS done
		FROM order_line x JOIN item i ON i.id = x.item_id LEFT JOIN unnest(${roles}::text[], ${at}::text[]) n(role, step) ON n.role = x.role
		WHERE x.order_id = ${order.id} ORDER BY x.no`;
	const { gives } = documentKind(order.kind);
	order.lines = lines.map(({ arrives, ...l }) => {
		// Numbers are given: those that the item carries, and nothing beside them.
		if (gives)
			return {
				...l,
				...{ tracking: l.carries, expiry: 'not asked', facts: [] },
				rule: { lot: 'required', serial: 'required', expiry: 'not asked' }
			};
		const rule = l.rule ?? { lot: 'not asked', serial: 'not asked', expiry: 'not asked' };
		if (arrives) rule.expiry = stronger(rule.expiry, arrives);
		const tracking = askedAt(l.carries, rule);
		// What arrives without a number has nothing that a date or a fact could be kept with; stock that leaves may.
		const kept = tracking !== 'none' || !ARRIVING.has(l.step);
		return { ...l, rule, tracking, expiry: kept ? rule.expiry : 'not asked', facts: kept ? l.facts : [] };
	});
	return order;
}
/** Steps at which something comes in and gets its numbers. */
const ARRIVING: ReadonlySet<string> = new Set<Step>([
	'receipt',
	'production output',
	'customer return',
	'adjustment in'
]);
type Row = Omit<OrderLine, 'tracking' | 'rule' | 'expiry'> & { rule: OrderLine['rule'] | null; arrives: How | null };

/** The last event of an order (o), by itself or with others. */
export const lastEventOf = (sql: Db) => sql`
	greatest((SELECT max(e.id) FROM event e WHERE e.order_id = o.id), (SELECT max(w.event_id) FROM order_event w WHERE w.order_id = o.id))`;

/** @throws Problem 409 where an order is closed: complete, or before it was */
export function mustBeOpen(order: Pick<Order, 'code' | 'closedAt' | 'closedShort'>): void {
	if (!order.closedAt) return;
	throw new Problem(
		order.closedShort === null
			? `${order.code} is complete since ${order.closedAt}. Open another order for more.`
			: `${order.code} was closed incomplete on ${order.closedAt}. Open it again first.`,
		409
	);
}

/** Is an event (e) of an order: its own, or of several with it among them? */
export const ofOrder = (sql: Db, id: string) =>
	sql`e.id IN (SELECT x.id FROM event x WHERE x.order_id = ${id} UNION ALL SELECT w.event_id FROM order_event w WHERE w.order_id = ${id})`;

/** Codes of the other open orders of its customer at its place, at most 50, as an array; none where it is no open sale. */
export const othersOf = (sql: Db, order: string) => sql`
	ARRAY(SELECT o.code FROM orders x JOIN orders o ON o.partner_id = x.partner_id AND o.kind = x.kind
		AND o.place_id IS NOT DISTINCT FROM x.place_id AND o.closed_at IS NULL AND o.id <> x.id
		WHERE x.id = ${order} AND x.closed_at IS NULL AND x.kind = 'sale' ORDER BY o.code COLLATE natural_order LIMIT 50)`;

/** Writes down that an event is of other orders too. */
export const alsoOf = (tx: Tx, event: string, others: readonly string[]) => tx`
	INSERT INTO order_event (event_id, order_id) SELECT ${event}::bigint, n FROM unnest(${[...others]}::bigint[]) n`;

/** The events booked on an order, by itself or with others, newest first: as a query. */
export const eventsOf = (sql: Db, order: Pick<Order, 'id'>) => sql`
	SELECT e.id::text AS id, e.kind, e.at, coalesce(n.name, e.recorded_by) AS by, e.document,
		EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id) AS undone,
		e.kind <> 'undo' AND EXISTS (SELECT 1 FROM movement m JOIN place f ON f.id = m.from_place AND f.virtual
			JOIN place t ON t.id = m.to_place AND NOT t.virtual WHERE m.event_id = e.id) AS brings,
		EXISTS (SELECT 1 FROM movement m JOIN place f ON f.id = m.from_place AND f.transit WHERE m.event_id = e.id) AS arrives,
		EXISTS (SELECT 1 FROM movement m JOIN place t ON t.id = m.to_place AND t.staging WHERE m.event_id = e.id) AS waits,
		(SELECT count(*)::int FROM movement m WHERE m.event_id = e.id) AS movements,
		coalesce((SELECT json_agg(json_build_object('id', p.id::text, 'at', shown_time(p.made_at)) ORDER BY p.id)
			FROM paper p WHERE p.event_id = e.id), '[]') AS papers
	FROM event e LEFT JOIN person n ON n.login = e.recorded_by WHERE ${ofOrder(sql, order.id)} ORDER BY e.id DESC LIMIT 50`;

/** Lines that scans added are as long as what was booked of them; those of which nothing was are taken out. */
export async function settleScanned(sql: Db, order: Pick<Order, 'id' | 'lines'>): Promise<void> {
	const ids = order.lines.filter((l) => l.scanned).map((l) => l.id);
	if (!ids.length) return;
	await sql`
		UPDATE order_line x SET qty = d.qty FROM (SELECT order_line_id AS id, sum(qty) AS qty FROM line_done WHERE order_line_id = ANY(${ids}::bigint[]) GROUP BY 1) d
		WHERE x.id = d.id AND d.qty > 0 AND d.qty <> x.qty`;
	await sql`
		DELETE FROM order_line x WHERE x.id = ANY(${ids}::bigint[]) AND NOT EXISTS (SELECT 1 FROM movement m WHERE m.order_line_id = x.id)
			AND NOT EXISTS (SELECT 1 FROM draft_row d WHERE d.line_id = x.id)`;
}

/** Runs (r) of units of an order that have parts in them and are not finished: as the FROM of a statement. */
export const unfinishedUnits = (sql: Db, orderId: string) => sql`
	(SELECT x.id, x.unit_mark FROM run x
		-- Run by run: held against all that was ever made, thousands of units of one order take minutes.
		CROSS JOIN LATERAL (SELECT sum(CASE m.role WHEN 'use' THEN m.qty WHEN 'detach' THEN -m.qty ELSE 0 END) AS inside,
			bool_or(m.role = 'make') AS made FROM effective_movement m WHERE m.run_id = x.id OFFSET 0) w
		WHERE x.order_id = ${orderId} AND x.unit_mark IS NOT NULL AND w.inside > 0 AND NOT w.made) r`;

/** Closes an order whose goods or output are all booked and have arrived, and opens it again when an undo took some back. */
export async function settleOrder(sql: Db, orderId: string) {
	await sql`
		UPDATE orders o SET closed_at = CASE WHEN n.complete THEN (SELECT max(e.at) FROM event e WHERE ${ofOrder(sql, orderId)}) END FROM (
			SELECT bool_and(coalesce(d.qty, 0) >= x.qty) AND NOT EXISTS (SELECT 1 FROM orders t WHERE t.id = ${orderId} AND t.to_place_id IS NOT NULL
				AND EXISTS (SELECT 1 FROM order_transit w WHERE w.order_id = t.id))
				-- Nor while a unit of it has parts and is not finished: it would have no order any more.
				AND NOT EXISTS (SELECT 1 FROM ${unfinishedUnits(sql, orderId)})
				AND NOT EXISTS (SELECT 1 FROM unit_work u WHERE u.order_id = ${orderId}) AS complete FROM order_line x
			LEFT JOIN LATERAL (SELECT sum(d.qty) AS qty FROM line_done d WHERE d.order_line_id = x.id) d ON true
			WHERE x.order_id = ${orderId} AND x.role IN ('goods', 'output')) n
		WHERE o.id = ${orderId} AND o.closed_short IS NULL AND (o.closed_at IS NOT NULL) <> n.complete`;
}
