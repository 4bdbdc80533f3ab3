import { createHash } from 'node:crypto';
import { z } from 'zod';
import type { Db, Sql, Tx } from '../database/connect.ts';
import { documentKind, namesStock } from '../../core/document/kinds.ts';
import { isSome } from '../../core/quantity/quantity.ts';
import { demand } from '../../core/people/can.ts';
import { found, type Finding } from '../../core/checks/check.ts';
import { unread } from '../../core/checks/catalogue.ts';
import { key, line, text } from '../../core/text/input.ts';
import type { Actor, EventInput } from '../../core/ledger/input.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { MODES, type LinePromise, type Mode, type SheetState } from '../../core/sheet/sheet.ts';
import { dayIn, type Clock } from '../../core/time/clock.ts';
import { bookedUnder, digest } from '../ledger/append.ts';
import { book, checkEvent, readEvent, type Booked, type Checked } from '../ledger/book.ts';
import { catalogueOf } from '../ledger/catalogue.ts';
import { noteReceipt } from '../ledger/world.ts';
import {
	alsoOf,
	getOrder,
	lastEventOf,
	mustBeOpen,
	othersOf,
	settleOrder,
	settleScanned,
	type Order
} from '../document/orders.ts';
import type { OnHand } from '../marks/onhand.ts';
import { parse } from '../parse.ts';
import { builders } from '../builders.ts';
import { promiseArrived, promisesTo, takesStock } from '../document/promises.ts';
import { answeredBefore, saidAhead } from './ahead.ts';
import { besideSheet } from './beside.ts';
import type { Built, Held } from './build.ts';
import { StockThere } from './stockthere.ts';
import { readDrafts, takeRows, type DraftRow } from './drafts.ts';
import { footBar, orderPart, showFindings, type SheetFinding } from './lines.ts';
import { isLong } from './sent.ts';

/** What is recorded now, as an address says it. */
export const modeInput = z.enum(MODES).catch('both');
/** The mode that an address asks for; use and output together when it says nothing. */
export const modeOf = (url: URL): Mode => modeInput.parse(url.searchParams.get('mode') ?? 'both');

/** What others ask for has its turn: of a long sheet each step takes a while. */
const yieldToEventLoop = () => new Promise<void>((next) => setImmediate(next));
const systemClock: Clock = () => new Date();

/** Rows of one number by themselves, and what stands there of what they take. */
interface Alone {
	rows: readonly DraftRow[];
	stock: readonly OnHand[];
}
interface Whole {
	order: Order;
	drafts: DraftRow[];
	event: Omit<EventInput, 'key' | 'at'> | null;
	used: string[];
	after: Built['after'];
	/** what the checks of its movements found, with what they read */
	checked: Checked | null;
	sheet: Omit<SheetState, 'events' | 'scans'>;
}

/**
 * Builds a sheet, checks what its button would book, and says at each row and in the foot bar what was found.
 * @param how `held`: what other sheets take. `only`: a row that is looked at alone. `ahead`: of a long sheet the ledger's
 *   checks are not asked yet. `named`: of a kind that takes stock only what its rows name goes. `stock`: what stands there,
 *   where it was read already
 */
async function build(
	sql: Db,
	order: Order,
	mode: Mode,
	now: Date,
	{
		held = [],
		only,
		ahead = false,
		named = false,
		stock
	}: { held?: readonly Held[]; only?: Alone; ahead?: boolean; named?: boolean; stock?: StockThere } = {}
): Promise<Whole> {
	const [drafts, { policy }, promises] = await Promise.all([
		only ? [...only.rows] : readDrafts(sql, order.id),
		catalogueOf(sql).current(sql, order.setup),
		!only && order.lines.some(takesStock) ? promisesTo(sql, order, now) : new Map<string, LinePromise[]>()
	]);
	const long = isLong(order, drafts.length);
	const built = await builders[order.kind].build(sql, {
		order,
		drafts,
		mode,
		policy,
		held,
		now,
		today: dayIn(order.zone, now),
		ahead: ahead && long,
		named: named && documentKind(order.kind).scans === 'stock',
		...(only ? { alone: only.stock } : {}),
		stock: stock ?? new StockThere(sql, order)
	});
	if (long) await yieldToEventLoop();
	for (const line of built.lines) line.promises = promises.get(line.id) ?? [];
	const moved = built.moves.length
		? {
				kind: built.kind,
				runs: built.runs,
				movements: built.moves.map((m) => m.movement),
				document: order.code,
				partner: order.partner,
				job: order.job,
				order: order.id
			}
		: null;
	const checked = !(ahead && long);
	const own = moved && checked ? await checkMoves(sql, built, moved, now) : { checked: null, said: [] };
	const all = [...built.said, ...own.said];
	if (moved && checked && built.next) {
		const { kind, to } = built.next;
		const later = { ...moved, kind, movements: moved.movements.map((m) => ({ ...m, to })) };
		all.push(...saidAhead((await checkMoves(sql, built, later, now)).said));
	}
	if (long) await yieldToEventLoop();
	const { said, reasons } = answeredBefore(all, built.answered);
	const event = moved && { ...moved, reason: joinReasons(order.reason?.name, ...reasons) };
	showFindings(said);
	const missing = footBar(said);
	const ready = checked && built.enough && !!event && !missing.some((m) => m.level === 'stop');
	const stamp = checked
		? createHash('sha256')
				.update(JSON.stringify([event, missing]))
				.digest('base64url')
		: '';
	return {
		order,
		drafts,
		event,
		used: built.used,
		after: built.after,
		checked: own.checked,
		sheet: {
			...orderPart(order),
			...built.shows,
			...{ lines: built.lines, missing, ready, stamp, long, checked }
		}
	};
}

/** Reasons from several sides, as the ledger keeps them. */
const joinReasons = (...reasons: (string | null | undefined)[]): string | null =>
	reasons.filter(Boolean).join(': ') || null;

/** Holds the movements of a sheet against the ledger's checks, and finds the part of the sheet that each finding is about. */
async function checkMoves(
	sql: Db,
	built: Built,
	event: Omit<EventInput, 'key' | 'at'>,
	now: Date
): Promise<{ checked: Checked | null; said: SheetFinding[] }> {
	const first = built.moves[0];
	const at = (index: number) => built.moves[index] ?? first;
	const place = (f: Finding): SheetFinding => ({ line: at(f.line).line, of: at(f.line).of, found: f });
	try {
		await yieldToEventLoop();
		const parsed = readEvent({ ...event, key: 'sheet', at: now.toISOString() });
		await yieldToEventLoop();
		const checked = await checkEvent(sql, parsed, catalogueOf(sql), built.terms);
		return { checked, said: [...checked.findings, ...(await noteReceipt(sql, checked.lines))].map(place) };
	} catch (e) {
		if (!(e instanceof Problem)) throw e;
		// What is not there at all: said where it stands.
		const said = e.faults.map((fault: Fault) => {
			const index = Number(/^movements\[(\d+)\]/.exec(fault.at ?? '')?.[1] ?? 0);
			return {
				line: at(index).line,
				of: at(index).of,
				found: found(
					{ ...unread, code: fault.code ?? 'form' },
					{ problem: fault.message },
					{ line: index, about: null }
				)
			};
		});
		return { checked: null, said };
	}
}

/**
 * A sheet as it stands, within the transaction that changed it.
 * @param how `only`: what it has of one number, to see what is wrong with that by itself; `stock`: what stands there, where it
 *   was read already
 */
export const sheetWithin = async (
	tx: Tx,
	order: Order,
	mode: Mode,
	how: { only?: Alone; stock?: StockThere } = {}
): Promise<Omit<SheetState, 'events' | 'scans'>> => (await build(tx, order, mode, new Date(), how)).sheet;

/** An order by its code. @throws Problem 404 when there is none, or none of the kind */
export async function findOrder(sql: Db, code: string, kind?: Order['kind']): Promise<Order> {
	const order = await getOrder(sql, code);
	if (!order || (kind && order.kind !== kind))
		throw new Problem(
			`There is no ${kind ? documentKind(kind).name : 'order'} ${code.slice(0, 60)}. Look it up in the list.`,
			404
		);
	return order;
}
/** An order that is still open. @throws Problem as findOrder(), and 409 when it is closed */
export async function findOpenOrder(sql: Db, code: string, kind?: Order['kind']): Promise<Order> {
	const order = await findOrder(sql, code, kind);
	mustBeOpen(order);
	return order;
}

/**
 * The sheet of an order as it stands: lines, typed rows, picks, and everything that is missing.
 * @param options `kind`: the kind that its page shows; another one is not found there. `ahead`: a long sheet is not held
 *   against the ledger's checks yet, and says so. `order`: where it was read a moment ago
 */
export async function sheetState(
	sql: Db,
	code: string,
	mode: Mode = 'both',
	options: { clock?: Clock; kind?: Order['kind']; ahead?: boolean; order?: Order } = {}
): Promise<SheetState> {
	const order = options.order ?? (await findOrder(sql, code, options.kind));
	const [{ sheet }, beside] = await Promise.all([
		build(sql, order, mode, (options.clock ?? systemClock)(), { ahead: options.ahead }),
		besideSheet(sql, order)
	]);
	if (sheet.long) await yieldToEventLoop();
	return { ...sheet, ...beside };
}

/** A press of the button, as parsed. */
export const bookInput = z.strictObject({
	key,
	stamp: z.string().max(100),
	reason: text(1000, 0).optional(),
	mode: modeInput.optional(),
	/** only what its rows name goes, and nothing that is only suggested */
	named: z.literal(true).optional()
});

/**
 * Books what the sheet shows, as of now or, for what is entered later, of another moment. The stamp makes sure that it
 * still shows what the person saw.
 * @throws Problem 409 when the sheet changed meanwhile, 422 when something stops it; nothing is booked then
 */
export async function bookSheet(
	sql: Sql,
	actor: Actor,
	code: string,
	{ key: under, ...seen }: z.output<typeof bookInput>,
	clock: Clock = systemClock
): Promise<Booked> {
	const { stamp, mode, reason, named } = seen;
	return bookSeen(sql, actor, [{ code, stamp, mode, named }], { key: under, reason }, clock, ([order]) => ({
		order: order.code,
		...seen
	}));
}

/**
 * Books what a sheet comes to now, for a program that has seen none: of what takes stock what its rows name, and what is
 * suggested only where the program says so. The same key gives the same answer, whatever the sheet shows since.
 * @throws Problem as when somebody presses the button, and 422 where nothing is named
 */
export const bookNow = (
	sql: Sql,
	actor: Actor,
	code: string,
	{ key: under, mode, reason, suggested }: { key: string; mode?: Mode; reason?: string; suggested?: boolean },
	clock: Clock = systemClock
): Promise<Booked> =>
	bookSeen(sql, actor, [{ code, stamp: null, mode }], { key: under, reason, suggested }, clock, ([order]) => ({
		now: order.code,
		mode,
		reason,
		suggested
	}));

/** Sheets that are booked as one event, as parsed. */
/** How many orders may go as one shipment. */
const MOST_TOGETHER = 20;
export const bookTogetherInput = z.strictObject({
	key,
	orders: z
		.array(
			z.strictObject({
				code: line(60),
				stamp: z.string().max(100).optional().describe('What was seen; left out where nobody looked.')
			})
		)
		.min(1, 'Choose what goes together.')
		.max(MOST_TOGETHER, `At most ${MOST_TOGETHER} orders go together. Send the others after them.`),
	suggested: z
		.boolean()
		.optional()
		.describe('Of orders that nobody looked at: what is suggested goes too. Without it only what their rows name.'),
	reason: text(1000, 0).optional()
});

/**
 * Books what several sheets show as one event: all of it, or nothing. They are to the same partner, from the same place.
 * @throws Problem as of one sheet, and when they do not go together
 */
export async function bookTogether(
	sql: Sql,
	actor: Actor,
	input: unknown,
	clock: Clock = systemClock
): Promise<Booked> {
	const { key: under, orders, reason, suggested } = parse(bookTogetherInput, input);
	if (new Set(orders.map((o) => o.code)).size < orders.length)
		throw new Problem('An order stands here twice. Name each once.');
	const seen = orders.map((o): Seen => ({ code: o.code, stamp: o.stamp ?? null, mode: TOGETHER }));
	return bookSeen(sql, actor, seen, { key: under, reason, suggested }, clock, () => ({
		together: orders,
		reason,
		suggested
	}));
}
/** Of orders that go together what goes is recorded, not what is picked to wait. */
const TOGETHER: Mode = 'output';

/** The sheets of orders that go together: each without what those before it take. */
export async function sheetsTogether(
	sql: Sql,
	codes: readonly string[],
	now = new Date()
): Promise<Omit<SheetState, 'events' | 'scans'>[]> {
	const orders = await Promise.all(codes.map((code) => findOrder(sql, code)));
	return (await buildEach(sql, orders, () => ({ mode: TOGETHER }), now)).map((w) => w.sheet);
}

/**
 * What would go of an order and of those that go with it, each sheet built once where all of them can go.
 * @param asked the others that somebody chose; null before: whatever can go goes
 * @returns the other open orders of the customer there, those chosen, the sheets, and how many may be chosen
 */
export async function offerTogether(sql: Sql, order: Order, asked: readonly string[] | null) {
	const [{ others }] = await sql<{ others: string[] }[]>`SELECT ${othersOf(sql, order.id)} AS others`;
	const most = MOST_TOGETHER - 1;
	const offer = async (chosen: readonly string[]) => ({
		...{ others, chosen, most },
		sheets: await sheetsTogether(sql, [order.code, ...chosen])
	});
	if (asked) return offer(others.filter((code) => asked.includes(code)).slice(0, most));
	const first = await offer(others.slice(0, most));
	const can = first.sheets.flatMap((s) => (s.ready && s.code !== order.code ? [s.code] : []));
	return can.length === first.chosen.length ? first : offer(can);
}

/** A sheet as somebody saw it. */
interface Seen {
	code: string;
	/** of what was seen; null where nobody looked */
	stamp: string | null;
	mode?: Mode;
	/** of what was seen only what its rows name is to go */
	named?: true;
}
/** Builds sheets one after the other, each without what those before it take. */
async function buildEach(
	sql: Db,
	orders: readonly Order[],
	how: (n: number) => { mode: Mode; named?: boolean },
	now: Date
): Promise<Whole[]> {
	const wholes: Whole[] = [];
	const held: Held[] = [];
	for (const [n, order] of orders.entries()) {
		const { mode, named } = how(n);
		const whole = await build(sql, order, mode, now, { held, named });
		wholes.push(whole);
		for (const { cells } of whole.sheet.lines)
			held.push(
				...cells.flatMap((c) => c.picks.map(({ mark, place, qty }) => ({ mark, place, qty, for: order.code })))
			);
	}
	return wholes;
}

async function bookSeen(
	sql: Sql,
	actor: Actor,
	seen: readonly Seen[],
	given: { key: string; reason?: string; suggested?: boolean },
	clock: Clock,
	asked: (orders: readonly Order[]) => unknown
): Promise<Booked> {
	// With its last event, read before everything else: whatever is booked on the orders after this is noticed under the lock.
	const found = await Promise.all(seen.map(({ code }) => findOrder(sql, code)));
	for (const { kind } of found) demand(actor.role, documentKind(kind).right);
	const request = asked(found);
	const known = await bookedUnder(sql, given.key, digest(request));
	if (known) return known;
	const now = clock();
	// Who saw the sheet saw what is suggested in it.
	const named = (n: number) => (seen[n].stamp === null ? !given.suggested : !!seen[n].named);
	const modeFor = (n: number) => seen[n].mode ?? 'both';
	const shown = await buildEach(sql, found, (n) => ({ mode: modeFor(n), named: named(n) && !seen[n].named }), now);
	const wholes = seen.some((s) => s.named)
		? await buildEach(sql, found, (n) => ({ mode: modeFor(n), named: named(n) }), now)
		: shown;
	if (shown.some(({ sheet }, n) => seen[n].stamp !== null && sheet.stamp !== seen[n].stamp))
		throw new Problem(
			'The sheet changed while you looked at it. It now shows what is there; check it and press again.',
			409
		);
	const several = wholes.length > 1;
	const refused = (level: 'stop' | 'reason') =>
		wholes.flatMap(({ order, sheet }) =>
			sheet.missing
				.filter((m) => m.level === level)
				.map((m): Fault => ({
					message: several ? `${order.code}: ${m.message}` : m.message,
					at: `line ${m.line}`,
					code: m.code,
					level: level === 'reason' ? 'reason' : 'stop'
				}))
		);
	const stops = refused('stop');
	if (stops.length) throw new Problem(stops);
	const asks = refused('reason');
	const reason = given.reason?.trim() || null;
	if (asks.length && !reason) throw new Problem(asks);
	const nothing = wholes.flatMap((whole, n) => (named(n) ? nothingNamed(whole, several) : []));
	if (nothing.length) throw new Problem(nothing);
	const event = oneEvent(wholes);
	return book(
		sql,
		actor,
		{ ...event, key: given.key, at: now.toISOString(), reason: joinReasons(event.reason, reason) },
		{
			request,
			clock,
			// Checked a moment ago; what it was checked by is held to it as it is written.
			checked: several ? null : wholes[0].checked,
			before: async (tx) => {
				// Its own order is held with the event.
				if (several) await tx`SELECT 1 FROM orders WHERE id = ANY(${event.orders!}::bigint[]) ORDER BY id FOR UPDATE`;
				for (const { order, drafts } of wholes) await unchanged(tx, drafts, order);
			},
			after: async (tx, booked) => {
				if (several) await alsoOf(tx, booked.id, event.orders!);
				for (const { order, used, after } of wholes) {
					if (order.lines.some((l) => l.forPartner)) await promiseArrived(tx, actor, booked.id);
					await after?.(tx, actor, { id: booked.id, at: now.toISOString() });
					await takeRows(tx, order.code, used);
					await settleScanned(tx, order);
					await settleOrder(tx, order.id);
				}
			}
		}
	);
}

/** Of a document of which nothing is named: what is said of its lines. None where something is. */
function nothingNamed({ order, event, sheet }: Whole, several: boolean): Fault[] {
	if (event || documentKind(order.kind).scans !== 'stock') return [];
	return sheet.lines
		.filter((l) => namesStock(order.kind, l.role) && isSome(l.open))
		.map((l) => ({
			message: `${several ? `${order.code}: l` : 'L'}ine ${l.no}: nothing is named. Name its lots or serials in rows, or say suggested.`,
			at: `line ${l.no}`,
			code: 'nothing named',
			level: 'stop'
		}));
}

/** What the sheets show as one event. @throws Problem when nothing is entered in one of them, or they do not go together */
function oneEvent(wholes: readonly Whole[]): Omit<EventInput, 'key' | 'at'> {
	const events = wholes.map(({ order, event, sheet }) => {
		if (event && sheet.ready) return event;
		throw new Problem(
			wholes.length > 1
				? `Nothing of ${order.code} can go. Take it out, or look at its sheet for what is missing.`
				: 'Nothing is entered yet. Type or scan the first number.'
		);
	});
	const [first] = events;
	const others = wholes.slice(1);
	for (const [n, { order }] of others.entries())
		if (
			!documentKind(order.kind).sells ||
			events[n + 1].kind !== first.kind ||
			events[n + 1].partner !== first.partner ||
			order.place !== wholes[0].order.place
		)
			throw new Problem(
				`${order.code} does not go with ${wholes[0].order.code}: it is for somebody else, or from another place. Send it by itself.`
			);
	if (!others.length) return first;
	const codes = wholes.map((w) => w.order.code);
	const all = codes.join(', ');
	return {
		...first,
		document: all.length > 60 ? `${codes[0]} and ${codes.length - 1} more` : all,
		reason: joinReasons(...new Set(events.map((e) => e.reason))),
		runs: events.flatMap((e) => e.runs ?? []),
		movements: events.flatMap((e) => e.movements ?? []),
		orders: others.map((w) => w.order.id)
	};
}

/** @throws Problem where something was booked on an order since it was read, or its rows are not those that were read */
async function unchanged(tx: Tx, drafts: readonly DraftRow[], order: Order): Promise<void> {
	const [now] = await tx<{ last: string | null; rows: { id: string; version: number }[] }[]>`
		WITH held AS (SELECT id, version FROM draft_row WHERE order_id = ${order.id} FOR UPDATE)
		SELECT ${lastEventOf(tx)} AS last, coalesce((SELECT json_agg(held) FROM held), '[]') AS rows FROM orders o WHERE o.id = ${order.id}`;
	if (now.last !== order.lastEvent)
		throw new Problem(
			'Somebody booked on this order at the same moment. The sheet shows what is left; check it and press again.',
			409
		);
	const seen = new Map(drafts.map((d) => [d.id, d.version]));
	if (now.rows.length !== drafts.length || now.rows.some((n) => seen.get(n.id) !== n.version))
		throw new Problem('Somebody changed the sheet at the same moment. Check it and press again.', 409);
}
