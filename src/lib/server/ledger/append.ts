import { createHash } from 'node:crypto';
import { transaction, type Sql, type Tx } from '../database/connect.ts';
import type { Found } from '../../core/checks/check.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { Problem } from '../../core/problem/problem.ts';
import { showDay } from '../../core/dates/dates.ts';
import type { Clock } from '../../core/time/clock.ts';
import { isLost } from '../database/lost.ts';
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
}
/** What an event's writer has written. */
export interface Written {
	movements: number;
	/** what was only noted */
	notes?: Found[];
}
/** What was booked, or had been under the same key. */
export interface Booked {
	/** the event's number in the ledger */
	id: string;
	/** true when the key was known: nothing was booked now */
	again: boolean;
	movements: number;
	/** what is to be noted of it; nothing stood in the way */
	notes: Found[];
}
/** What an event is written with. */
export interface AppendOptions {
	/** what was asked, where that is not the occasion itself: the same key with something else is refused */
	request?: unknown;
	/** runs in the same transaction, before anything is read, under the ledger's lock */
	before?: (tx: Tx) => Promise<void>;
	/** runs in the same transaction, after the event is written: what a draft or an order has to know of it */
	after?: (tx: Tx, booked: Booked) => Promise<void>;
	/** tells what time it is */
	clock?: Clock;
}

/** How far ahead of the clock an event may lie: clocks differ. In ms. */
const AHEAD = 600_000;
/** How often a booking is tried when only the moment was bad. */
const TRIES = 5;
const systemClock: Clock = () => new Date();

/**
 * The only door into the ledger. One event, one transaction: lock the head of the chain, see whether the key is known,
 * let the event's own writer check and write, seal. Nothing else writes events, movements, runs, marks or their changes.
 *
 * Bookings are one after another (the hash chain has one end), so what is checked under the lock still holds when it
 * is written, and two bookings cannot wait for each other.
 *
 * @param write checks and writes what the event consists of, under the event's number
 * @throws Problem naming each fault, 409 when the key was used for something else; nothing is booked then
 */
export async function append(
	sql: Sql,
	actor: Actor,
	occasion: Occasion,
	write: (tx: Tx, id: string) => Promise<Written>,
	options: AppendOptions = {}
): Promise<Booked> {
	checkTime(occasion, (options.clock ?? systemClock)());
	const request = digest(options.request ?? occasion);
	return inTransaction(sql, async (tx) => {
		const [{ next }] = await tx<{ next: string }[]>`SELECT last_event + 1 AS next FROM ledger_head FOR UPDATE`;
		const known = await bookedUnder(tx, occasion.key, request);
		if (known) return known;
		await options.before?.(tx);
		const { movements, notes = [] } = await write(tx, next);
		await seal(tx, actor, occasion, next, request);
		const booked = { id: next, again: false, movements, notes };
		await options.after?.(tx, booked);
		return booked;
	});
}

/** What a request is told apart by: its content, whatever the order in which an object's fields were made. */
export const digest = (request: unknown): string =>
	createHash('sha256')
		.update(JSON.stringify(request, (_key, value) => (value === undefined ? null : value)))
		.digest('hex');

/**
 * What was booked under a key; null when nothing was.
 * @throws Problem 409 when something else was asked under it
 */
export async function bookedUnder(tx: Tx | Sql, key: string, request: string): Promise<Booked | null> {
	const [known] = await tx<{ id: string; n: number; request: string | null }[]>`
		SELECT id, request, (SELECT count(*)::int FROM movement m WHERE m.event_id = e.id) AS n FROM event e WHERE key = ${key}`;
	if (!known) return null;
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
	return { id: known.id, again: true, movements: known.n, notes: [] };
}

function checkTime(occasion: Occasion, now: Date) {
	const at = Date.parse(occasion.at);
	const refuse = (message: string) => new Problem([{ message, at: 'at', code: 'time' }]);
	if (at > now.getTime() + AHEAD)
		throw refuse(`${occasion.at.slice(0, 16).replace('T', ' ')} is in the future. Give the time when it happened.`);
	if (at < Date.UTC(1970, 0, 1))
		throw refuse(`${showDay(new Date(at).toISOString())} is too long ago. Check the date.`);
}

/** Writes the event row last: the database checks the whole and puts it into the chain. */
const seal = (tx: Tx, actor: Actor, occasion: Occasion, id: string, request: string) => tx`
	INSERT INTO event (id, key, kind, at, recorded_at, recorded_by, source, order_id, document, partner_id, job_id, reason, note, undoes, request, prev_hash, hash)
	VALUES (${id}, ${occasion.key}, ${occasion.kind}, ${occasion.at}, now(), ${actor.name}, ${actor.source}, ${occasion.order ?? null},
		${occasion.document ?? null}, (SELECT id FROM partner WHERE code = ${occasion.partner ?? null}), (SELECT id FROM job WHERE code = ${occasion.job ?? null}),
		${occasion.reason || null}, ${occasion.note || null}, (SELECT id FROM event WHERE key = ${occasion.undoes ?? null}), ${request}, '', '')`;

/** Runs one booking; again when the database says that only the moment was bad. */
async function inTransaction<T>(sql: Sql, work: (tx: Tx) => Promise<T>): Promise<T> {
	for (let attempt = 1; ; attempt++)
		try {
			return await transaction(sql, work);
		} catch (error) {
			const code = (error as { code?: string }).code;
			if ((code === '40001' || code === '40P01') && attempt < TRIES) continue;
			// Whether it was booked is not known: the same key again books nothing twice.
			if (isLost(error) && attempt < TRIES) {
				await new Promise((done) => setTimeout(done, 100 * 2 ** attempt));
				continue;
			}
			throw await explain(sql, error);
		}
}
