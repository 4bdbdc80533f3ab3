import { createHash } from 'node:crypto';
import { transaction, type Db, type Sql, type Tx } from '../database/connect.ts';
import type { Finding } from '../../core/checks/check.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { Problem } from '../../core/problem/problem.ts';
import { showDay } from '../../core/dates/dates.ts';
import type { Clock } from '../../core/time/clock.ts';
import { isLost } from '../database/lost.ts';
import { log } from '../log.ts';
import { explain } from './explain.ts';

/** What an event is besides what it writes: who names it, when it happened, what it belongs to. */
export interface Occasion {
	/** names it: the same key again gives the first result */
	key: string;
	kind: string;
	/** when it happened, ISO 8601 */
	at: string;
	document?: string | null;
	/** codes */
	partner?: string | null;
	job?: string | null;
	reason?: string | null;
	note?: string | null;
	/** id of the order that it belongs to */
	order?: string | null;
	/** key of the event that it undoes */
	undoes?: string | null;
	/** key of the event whose quantity it puts right */
	mends?: string | null;
}
/** What an event's writer has written. */
export interface Written {
	movements: number;
	/** what was only noted */
	notes?: Finding[];
}
/** What was booked, or had been under the same key. */
export interface Booked {
	/** the event's number in the ledger */
	id: string;
	/** true when the key was known: nothing was booked now */
	again: boolean;
	movements: number;
	/** what is to be noted of it; nothing stood in the way */
	notes: Finding[];
}
/** What an event is written with. */
export interface AppendOptions {
	/** what was asked, where that is not the occasion itself: the same key with something else is refused */
	request?: unknown;
	/** runs in the same transaction, before anything is read, while the event's order is held */
	before?: (tx: Tx) => Promise<void>;
	/** runs in the same transaction, after the event is written: what a draft or an order has to know of it */
	after?: (tx: Tx, booked: Booked) => Promise<void>;
	/** tells what time it is */
	clock?: Clock;
}

/** How far ahead of the clock an event may lie: clocks differ. In ms. */
const AHEAD = 600_000;
/** How often a booking is tried when only the moment was bad. */
const TRIES = 8;
/** How often when the database was lost under it: some six seconds in all. */
const LOST_TRIES = 5;
const systemClock: Clock = () => new Date();

/**
 * The door of events whose writer reads and writes by itself: an undo, a change of what is recorded. One event, one
 * transaction: hold its key and its order, see whether the key is known, let the writer lock what it touches, check and
 * write, and write the event's own row, which makes it whole. Events of movements go through book(), by the same steps in
 * one statement. Nothing else writes events, movements, runs, marks or their changes.
 *
 * @param write checks and writes what the event consists of. It draws the event's number after it has locked what it
 *   touches: of two events of one mark, the later has the higher number
 * @throws Problem naming each fault, 409 when the key was used for something else; nothing is booked then
 */
export async function append(
	sql: Sql,
	actor: Actor,
	occasion: Occasion,
	write: (tx: Tx, draw: () => Promise<string>) => Promise<Written>,
	options: AppendOptions = {}
): Promise<Booked> {
	return withRetry(sql, occasion.key, () =>
		transaction(sql, (tx) => appendWithin(tx, actor, occasion, write, options))
	);
}

/**
 * The same within a transaction that does more: of two events that belong together, neither stays without the other.
 * Whoever opened it tries again what only had a bad moment.
 */
export async function appendWithin(
	tx: Tx,
	actor: Actor,
	occasion: Occasion,
	write: (tx: Tx, draw: () => Promise<string>) => Promise<Written>,
	options: AppendOptions = {}
): Promise<Booked> {
	checkTime(occasion, options.clock);
	const request = digest(options.request ?? occasion);
	const known = await openEvent(tx, occasion, request);
	if (known) return known;
	await options.before?.(tx);
	let id = '';
	const draw = async () => {
		const [{ next }] = await tx<{ next: string }[]>`SELECT nextval('event_id') AS next`;
		return (id = next);
	};
	const { movements, notes = [] } = await write(tx, draw);
	await tx`SELECT close_event(${id}::bigint, ${eventHeader(actor, occasion, request)}::text::jsonb)`;
	const booked = { id, again: false, movements, notes };
	await options.after?.(tx, booked);
	return booked;
}

/**
 * Holds an event's key and its order until the transaction ends.
 * @returns what was booked under the key; null when nothing was
 * @throws Problem 409 when something else was asked under it
 */
export async function openEvent(
	tx: Tx,
	{ key, order }: Pick<Occasion, 'key' | 'order'>,
	request: string
): Promise<Booked | null> {
	const [known] = await tx<KnownEvent[]>`SELECT * FROM open_event(${key}, ${order ?? null}::bigint)`;
	return known ? sameRequest(known, key, request) : null;
}

/** An occasion as the database's own functions take it. */
export const eventHeader = (actor: Actor, o: Occasion, request: string, more: object = {}): string =>
	JSON.stringify({
		key: o.key,
		kind: o.kind,
		at: o.at,
		by: actor.name,
		source: actor.source,
		order: o.order ?? null,
		document: o.document ?? null,
		partner: o.partner ?? null,
		job: o.job ?? null,
		reason: o.reason || null,
		note: o.note || null,
		undoes: o.undoes ?? null,
		mends: o.mends ?? undefined,
		request,
		...more
	});

/** What a request is told apart by: its content, whatever the order in which an object's fields were made. */
export const digest = (request: unknown): string =>
	createHash('sha256')
		.update(JSON.stringify(request, (_key, value) => (value === undefined ? null : value)))
		.digest('hex');

interface KnownEvent {
	id: string;
	movements: number;
	request: string | null;
}

/**
 * What was booked under a key; null when nothing was.
 * @throws Problem 409 when something else was asked under it
 */
export async function bookedUnder(db: Db, key: string, request: string): Promise<Booked | null> {
	const [known] = await db<KnownEvent[]>`
		SELECT id, request, (SELECT count(*)::int FROM movement m WHERE m.event_id = e.id) AS movements FROM event e WHERE key = ${key}`;
	return known ? sameRequest(known, key, request) : null;
}

/** What was booked before. @throws Problem 409 when something else was asked for it */
export function sameRequest(known: KnownEvent, key: string, request: string): Booked {
	if (known.request !== null && known.request !== request)
		throw new Problem(
			[
				{
					message: `The key ${key} stands for something else already: event ${known.id}. Give each request a key of its own.`,
					at: 'key',
					code: 'key'
				}
			],
			409
		);
	return { id: known.id, again: true, movements: known.movements, notes: [] };
}

/** @throws Problem when an event would lie in the future, or before there were such ledgers */
export function checkTime(occasion: Pick<Occasion, 'at'>, clock: Clock = systemClock): void {
	const at = Date.parse(occasion.at);
	const refuse = (message: string) => new Problem([{ message, at: 'at', code: 'time' }]);
	if (at > clock().getTime() + AHEAD)
		throw refuse(`${occasion.at.slice(0, 16).replace('T', ' ')} is in the future. Give the time when it happened.`);
	if (at < Date.UTC(1970, 0, 1))
		throw refuse(`${showDay(new Date(at).toISOString())} is too long ago. Check the date.`);
}

/** What PostgreSQL says when only the moment was bad: serialization failure, deadlock. */
const MOMENT = new Set(['40001', '40P01']);
/**
 * What was read for the checks is not so any more (EM040), or what only the database can see refused it (a number that
 * somebody else made meanwhile, a piece that somebody else took): it is read and checked again, which says it in words.
 */
const MEANWHILE = new Set(['EM040', '23505', '23514']);

/**
 * Runs one booking, and again when only the moment was bad; a deadlock never reaches a person. Each time is logged.
 * @param stale called before it is tried again because something changed
 * @throws what the last try threw, in words
 */
export async function withRetry<T>(
	sql: Sql,
	key: string,
	work: () => Promise<T>,
	stale: () => void = () => {}
): Promise<T> {
	for (let attempt = 1; ; attempt++)
		try {
			return await work();
		} catch (error) {
			const code = (error as { code?: string }).code ?? '';
			// Whether it was booked is not known: the same key again books nothing twice.
			const lost = isLost(error);
			const again = lost ? attempt < LOST_TRIES : attempt < TRIES && (MOMENT.has(code) || MEANWHILE.has(code));
			if (!again) throw await explain(sql, error);
			if (lost) {
				await new Promise((done) => setTimeout(done, 100 * 2 ** attempt));
			} else if (MOMENT.has(code)) {
				log.warn({ key, code, attempt }, 'A booking is tried again.');
				// Those that stood in each other's way do not meet again at once.
				await new Promise((done) => setTimeout(done, Math.random() * 10 * 2 ** attempt));
			} else log.debug({ key, code, attempt }, 'A booking is checked again: something changed meanwhile.');
			stale();
		}
}
