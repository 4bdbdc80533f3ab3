import { createHash } from 'node:crypto';
import { z } from 'zod';
import { Problem } from '../../core/problem/problem.ts';
import type { Mode, SheetState } from '../../core/sheet/sheet.ts';
import type { Day } from '../../core/dates/dates.ts';
import type { Policy } from '../../core/policy/policy.ts';
import { can, type Verb } from '../../core/people/can.ts';
import type { Sql, Tx } from '../database/connect.ts';
import { book, type Booked } from '../ledger/book.ts';
import type { Actor, EventInput } from '../ledger/input.ts';
import { inboundSheet } from '../inbound/sheet.ts';
import { productionSheet } from '../production/sheet.ts';
import { outboundSheet } from '../outbound/sheet.ts';
import { notify, readDrafts, takeRows, type DraftRow } from './drafts.ts';
import { scanLog } from './scan.ts';
import { readPolicy } from '../setup/policy.ts';
import { getOrder, orderEvents, settleOrder, type Order, type OrderKind } from './orders.ts';

/** What an area makes of an order and its drafts: the sheet as shown, and the event that the button would book. */
export interface Built {
	sheet: Omit<SheetState, 'stamp' | 'events' | 'scans'>;
	event: Pick<EventInput, 'kind' | 'runs' | 'movements'> | null;
	/** drafts that the event uses up */
	used: string[];
}
/** What a sheet is built for: the day, what is recorded now, and how strongly the firm takes what its checks find. */
export interface Moment {
	today: Day;
	mode: Mode;
	policy: Policy;
}
/** What is recorded now, as an address says it. */
export const modeInput = z.enum(['both', 'use', 'output']).catch('both');
export const modeOf = (url: URL): Mode => modeInput.parse(url.searchParams.get('mode') ?? 'both');
export const verbOf: Record<OrderKind, Verb> = {
	purchase: 'book inbound',
	production: 'book production',
	sale: 'book outbound'
};
const builders = { purchase: inboundSheet, production: productionSheet, sale: outboundSheet };

/** Today where the server is: what counts as expired. */
export const today = (d = new Date()) =>
	new Date(d.getTime() - d.getTimezoneOffset() * 60_000).toISOString().slice(0, 10);

async function build(
	sql: Sql,
	order: Order,
	mode: Mode,
	at = new Date()
): Promise<{ built: Built; drafts: DraftRow[]; stamp: string }> {
	const [drafts, policy] = await Promise.all([readDrafts(sql, order.id), readPolicy(sql)]);
	const built = await builders[order.kind](sql, order, [...drafts], { today: today(at), mode, policy });
	const stamp = createHash('sha256')
		.update(JSON.stringify([built.event, built.sheet.missing]))
		.digest('base64url');
	return { built, drafts: [...drafts], stamp };
}

async function find(sql: Sql, code: string): Promise<Order> {
	const order = await getOrder(sql, code);
	if (!order) throw new Problem(`There is no order ${code}. Look it up in the list.`, 404);
	return order;
}

/** The sheet of an order as it stands: lines, typed rows, picks, and everything that is missing. */
export async function sheetState(sql: Sql, code: string, mode: Mode = 'both', at?: Date): Promise<SheetState> {
	const order = await find(sql, code);
	const { built, stamp } = await build(sql, order, mode, at);
	const [events, scans] = await Promise.all([orderEvents(sql, order.id), scanLog(sql, order.id)]);
	return { ...built.sheet, stamp, events: [...events], scans: [...scans] };
}

/**
 * Books what the sheet shows, as of now or, for what is entered later, of `at`. The stamp makes sure that it still shows what the person saw.
 * @throws Problem 409 when the sheet changed meanwhile, 422 when something stops it; nothing is booked then
 */
export async function bookSheet(
	sql: Sql,
	actor: Actor,
	code: string,
	input: { key: string; stamp: string; reason?: string; mode?: Mode; at?: Date }
): Promise<Booked> {
	// Read before everything else: whatever is booked on the order after this is noticed under the lock.
	const [{ last }] = await sql<{ last: string | null }[]>`
		SELECT max(e.id) AS last FROM event e JOIN orders o ON o.id = e.order_id WHERE o.code = ${code}`;
	const order = await find(sql, code);
	if (!can(actor.role, verbOf[order.kind]))
		throw new Problem(`Your role (${actor.role}) may not do this. Ask the coordinator.`, 403);
	const [known] = await sql<{ id: string }[]>`SELECT id FROM event WHERE key = ${input.key}`;
	if (known) return { id: known.id, again: true, movements: 0 };
	const { built, drafts, stamp } = await build(sql, order, input.mode ?? 'both', input.at);
	if (stamp !== input.stamp)
		throw new Problem(
			'The sheet changed while you looked at it. It now shows what is there; check it and press again.',
			409
		);
	const stops = built.sheet.missing.filter((m) => m.level === 'stop');
	if (stops.length) throw new Problem(stops.map((m) => ({ message: m.message, at: `line ${m.line}` })));
	const asks = built.sheet.missing.filter((m) => m.level === 'reason');
	if (asks.length && !input.reason?.trim())
		throw new Problem(asks.map((m) => ({ message: m.message, at: `line ${m.line}`, rule: 'reason' })));
	if (!built.event) throw new Problem('Nothing is entered yet. Type or scan the first number.');
	const event: EventInput = {
		...built.event,
		...{
			key: input.key,
			at: (input.at ?? new Date()).toISOString(),
			document: order.code,
			partner: order.partner,
			order: order.id
		},
		reason: input.reason?.trim() || null
	};
	return book(sql, actor, event, {
		before: (tx) => unchanged(tx, drafts, order.id, last),
		after: async (tx) => {
			await takeRows(tx, built.used);
			await settleOrder(tx, order.id);
			await notify(tx, order.code);
		}
	});
}

async function unchanged(tx: Tx, drafts: DraftRow[], orderId: string, last: string | null) {
	const [{ now: latest }] = await tx<
		{ now: string | null }[]
	>`SELECT max(id) AS now FROM event WHERE order_id = ${orderId}`;
	if (latest !== last)
		throw new Problem('Somebody booked on this order at the same moment. The sheet shows what is left; check it and press again.', 409); // prettier-ignore
	const now = await tx<
		{ id: string; version: number }[]
	>`SELECT id, version FROM draft_row WHERE order_id = ${orderId} FOR UPDATE`;
	const seen = new Map(drafts.map((d) => [d.id, d.version]));
	if (now.length !== drafts.length || now.some((n) => seen.get(n.id) !== n.version))
		throw new Problem('Somebody changed the sheet at the same moment. Check it and press again.', 409);
}
