import { Problem } from '../../core/problem/problem.ts';
import { grouped } from '../../core/quantity/sign.ts';
import type { Db, Sql } from '../database/connect.ts';
import { sealBooked } from '../ledger/seal.ts';

/**
 * The ledger as it was with so many entries, read by its events: all up to one, without a few under it that were sealed
 * later. What is undone, closed, written on papers or recorded by other events counts for nothing.
 */
export interface Moment {
	/** how many entries the ledger had */
	size: number;
	/** id of the highest event among them; 0 before the first */
	last: string;
	/** ids of events under it that are not among them */
	without: string[];
	/** something of a number was recorded by a later event */
	changed: boolean;
}

/** How many entries the ledger has, with all sealed that is booked by now; what takes longer to seal than this waits, in ms. */
const SEALS_FOR = 5000;
/** The size that a look which is made now is pinned to. On the primary. */
export const sizeNow = (sql: Sql): Promise<number> => sealBooked(sql, SEALS_FOR);

/** When the last of so many entries was sealed, and how many there are now; null before the first. */
export async function sealedWhen(sql: Db, size: number): Promise<Date | null> {
	const [leaf] = await sql<{ at: Date }[]>`SELECT sealed_at AS at FROM ledger_leaf WHERE index = ${size - 1}`;
	return leaf?.at ?? null;
}

/**
 * Reads what the ledger was with so many entries.
 * @returns null where it has not so many, here
 */
export async function momentOf(sql: Db, size: number): Promise<Moment | null> {
	const [m] = await sql<{ there: boolean; last: string; without: string[] | null; changed: boolean }[]>`
		WITH top AS (SELECT coalesce((SELECT event_id FROM ledger_leaf WHERE event_id IS NOT NULL AND index < ${size} ORDER BY event_id DESC LIMIT 1), 0) AS id),
		late AS (SELECT l.event_id AS id FROM ledger_leaf l WHERE l.index >= ${size} AND l.event_id <= (SELECT id FROM top)
			UNION ALL SELECT u.event_id FROM seal_queue u WHERE u.event_id <= (SELECT id FROM top))
		SELECT ${size} = 0 OR EXISTS (SELECT 1 FROM ledger_leaf WHERE index = ${size - 1}) AS there, (SELECT id FROM top) AS last,
			(SELECT array_agg(id ORDER BY id) FROM late) AS without,
			EXISTS (SELECT 1 FROM mark_change c WHERE c.event_id > (SELECT id FROM top)) OR EXISTS (SELECT 1 FROM late JOIN mark_change c ON c.event_id = late.id) AS changed`;
	return m.there ? { size, last: m.last, without: m.without ?? [], changed: m.changed } : null;
}

/** Is an event among those of a moment? A condition; true where there is no moment. */
export const isOf = (sql: Db, moment: Moment | null, event: ReturnType<Db>) =>
	moment ? sql`(${event} <= ${moment.last}::bigint AND ${event} <> ALL(${moment.without}::bigint[]))` : sql`true`;
/** Has an event happened and was it not undone, by a moment? A condition on an event by its alias. */
export const stood = (sql: Db, moment: Moment | null, e: ReturnType<Db>) =>
	sql`(${e}.kind <> 'undo' AND ${isOf(sql, moment, sql`${e}.id`)} AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = ${e}.id AND ${isOf(sql, moment, sql`u.id`)}))`;

/** What is said of a moment that is still to come. */
export const notYet = (size: number, now: number): Problem =>
	new Problem(
		[
			{
				message: `The ledger has ${grouped(now)} entries, not ${grouped(size)}. Trace again to see it as it is now.`,
				at: 'ledgerSize',
				code: 'size'
			}
		],
		422
	);

/** How long a replica may take to come to where a look is pinned, in ms. */
const FOLLOWS_WITHIN = 1000;
const LOOKS_EVERY = 50;
const pause = (ms: number) => new Promise<null>((done) => setTimeout(() => done(null), ms));

/** The moment on a replica; null where it does not come to it soon, follows nothing any more, or does not answer. */
async function followed(replica: Sql, size: number): Promise<Moment | null> {
	const until = Date.now() + FOLLOWS_WITHIN;
	const ask = async (): Promise<Moment | null> => {
		while (Date.now() < until) {
			// One that was promoted goes its own way: what it has is not the ledger.
			const [{ follows }] = await replica<{ follows: boolean }[]>`SELECT pg_is_in_recovery() AS follows`;
			if (!follows) return null;
			const moment = await momentOf(replica, size);
			if (moment) return moment;
			await pause(LOOKS_EVERY);
		}
		return null;
	};
	return Promise.race([ask().catch(() => null), pause(FOLLOWS_WITHIN)]);
}

/**
 * Reads from the ledger as it was with so many entries: from a replica that follows and has them, else from the primary.
 * @throws Problem 422 where there are not so many
 */
export async function readAt<T>(
	{ primary, replica }: { primary: Sql; replica: Sql | null },
	size: number,
	read: (sql: Sql, moment: Moment) => Promise<T>
): Promise<T> {
	const there = replica && (await followed(replica, size));
	if (replica && there)
		try {
			return await read(replica, there);
		} catch (e) {
			// Whatever became of it on its way: the primary has it too.
			if (e instanceof Problem) throw e;
		}
	const moment = await momentOf(primary, size);
	if (!moment) {
		const [{ now }] = await primary<{ now: string }[]>`SELECT coalesce(max(index) + 1, 0) AS now FROM ledger_leaf`;
		throw notYet(size, Number(now));
	}
	return read(primary, moment);
}
