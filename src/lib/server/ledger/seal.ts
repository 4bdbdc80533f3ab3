import { createHash } from 'node:crypto';
import type { Day } from '../../core/dates/dates.ts';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import {
	consistencyPath,
	inclusionPath,
	rangeHash,
	rangeOf,
	rootHash,
	type Hash,
	type Node,
	type Range
} from '../../core/merkle/tree.ts';
import { Problem } from '../../core/problem/problem.ts';
import { grouped } from '../../core/quantity/sign.ts';
import { keepDoing } from '../work/every.ts';

/** SHA-256, for the tree. */
export const sha256: Hash = (data) => createHash('sha256').update(data).digest();
const hex = (hash: Uint8Array) => Buffer.from(hash).toString('hex');

/** How much one transaction seals: entries and the movements in them. */
const WEIGHT = 20_000;
/** How long an event waits until it is sealed, at most about this. In ms. */
const EVERY = 500;

/** Seals everything that is booked by now. @returns how many entries the ledger has */
export async function sealAll(sql: Db): Promise<number> {
	for (;;) {
		const [{ size, added }] = await sql<{ size: string; added: number }[]>`SELECT * FROM seal(${WEIGHT}, true)`;
		if (!added) return Number(size);
	}
}

/**
 * Seals what was booked when it began; what comes in meanwhile waits for the next round.
 * @param most how long it takes at most, in ms: what is left then waits too
 * @returns how many entries the ledger has
 */
export async function sealBooked(sql: Sql, most: number): Promise<number> {
	const until = Date.now() + most;
	const [{ last }] = await sql<{ last: string | null }[]>`SELECT max(id) AS last FROM seal_queue`;
	while (last && Date.now() < until && (await sql`SELECT 1 FROM seal_queue WHERE id <= ${last} LIMIT 1`).length) {
		const done = await transaction(sql, async (tx) => {
			await tx`SELECT set_config('lock_timeout', ${`${until - Date.now()}ms`}, true)`;
			const [sealed] = await tx<{ added: number }[]>`SELECT added FROM seal(${WEIGHT}, true)`;
			return sealed;
		}).catch((e: { code?: string }) => {
			// Somebody holds what is to be sealed for longer than that.
			if (e.code === '55P03') return null;
			throw e;
		});
		if (!done?.added) break;
	}
	// Counted at the end: others seal too.
	const [{ size }] = await sql<{ size: string }[]>`SELECT coalesce(max(index) + 1, 0) AS size FROM ledger_leaf`;
	return Number(size);
}

/**
 * Seals what is booked, twice a second, for as long as the process runs. Any number of instances may: one of them does it.
 * A round ends with what was booked when it began: what comes in meanwhile waits for the next, so that few large
 * transactions seal what many small ones book.
 * @returns how to stop it; settles when nothing of it runs any more
 */
export const keepSealing = (pool: () => Sql): (() => Promise<void>) =>
	keepDoing(EVERY, 'Sealing failed; it is tried again.', async (stopped) => {
		const sql = pool();
		const [{ last }] = await sql<{ last: string | null }[]>`SELECT max(id) AS last FROM seal_queue`;
		const waits = async () => (await sql`SELECT 1 FROM seal_queue WHERE id <= ${last} LIMIT 1`).length;
		while (last && !stopped() && (await waits())) {
			const [done] = await sql<{ added: number }[]>`SELECT added FROM seal(${WEIGHT}, false)`;
			// Another instance does it.
			if (!done?.added) return;
		}
	});

/** A head as a paper carries it: how many entries, and the root over them in lower-case hex, whole or its beginning. */
export interface PaperHead {
	size: number;
	root: string;
}
/** The head of the ledger, with the moment when its last entry was sealed. */
export interface Head extends PaperHead {
	/** ISO 8601; null while there is no entry */
	at: string | null;
}

/** Reads the nodes that some ranges need: one statement. */
async function nodesOf(sql: Db, ranges: readonly Range[]): Promise<(node: Node) => Uint8Array> {
	const nodes = ranges.flat();
	const rows = await sql<{ level: number; index: string; hash: Buffer }[]>`
		SELECT 0 AS level, l.index, l.hash FROM ledger_leaf l WHERE l.index = ANY(${nodes.filter((n) => !n.level).map((n) => n.index)}::bigint[])
		UNION ALL
		SELECT n.level, n.index, n.hash FROM unnest(${nodes.map((n) => n.level)}::smallint[], ${nodes.map((n) => n.index)}::bigint[]) w(level, index)
			JOIN ledger_node n USING (level, index)`;
	const found = new Map(rows.map((r) => [`${r.level} ${r.index}`, r.hash]));
	return ({ level, index }) => {
		const hash = found.get(`${level} ${index}`);
		if (!hash)
			throw new Error(
				`The ledger's tree lacks its node ${level}/${index}. Run ./earmark verify, and correct nothing by hand.`
			);
		return hash;
	};
}

/** The head over the first so many entries. */
export async function headAt(sql: Db, size: number): Promise<Head> {
	const lookup = await nodesOf(sql, [rangeOf(0, size)]);
	const [last] = size
		? await sql<{ at: Date }[]>`SELECT sealed_at AS at FROM ledger_leaf WHERE index = ${size - 1}`
		: [];
	return { size, root: hex(rootHash(sha256, size, lookup)), at: last?.at.toISOString() ?? null };
}
/** The head as it is now, with everything sealed that is booked. */
export const headNow = async (sql: Db): Promise<Head> => headAt(sql, await sealAll(sql));

/** The head as it stood at the end of a day. */
export interface DayHead extends Head {
	day: Day;
}
/**
 * The heads at the ends of the last so many days on which anything was sealed, the newest first: two statements.
 */
export async function headsOfDays(sql: Db, days: number): Promise<DayHead[]> {
	const rows = await sql<{ day: Day; size: string; at: Date }[]>`
		SELECT (l.sealed_at AT TIME ZONE f.zone)::date AS day, max(l.index) + 1 AS size, max(l.sealed_at) AS at
		FROM firm f CROSS JOIN ledger_leaf l WHERE l.sealed_at > now() - make_interval(days => ${days}) GROUP BY 1 ORDER BY 1 DESC`;
	const lookup = await nodesOf(
		sql,
		rows.map((r) => rangeOf(0, Number(r.size)))
	);
	return rows.map((r) => ({
		day: r.day,
		size: Number(r.size),
		root: hex(rootHash(sha256, Number(r.size), lookup)),
		at: r.at.toISOString()
	}));
}

/** One entry: the exact text that was hashed, at its place in the tree. */
export interface Entry {
	index: number;
	entry: string;
}
/** The most signs of the entries of one answer; at least one entry comes. */
const MOST_TEXT = 8_000_000;
/** Entries from an index on, in order; no more than fit one answer. */
export async function entriesFrom(sql: Db, from: number, count: number): Promise<Entry[]> {
	const rows = await sql<{ index: string; entry: string }[]>`
		SELECT n.index, n.entry FROM (
			SELECT l.index, l.entry, sum(octet_length(l.entry)) OVER (ORDER BY l.index) - octet_length(l.entry) AS before
			FROM (SELECT index, entry FROM ledger_leaf WHERE index >= ${from} ORDER BY index LIMIT ${count}) l) n
		WHERE n.before < ${MOST_TEXT} ORDER BY n.index`;
	return rows.map((r) => ({ index: Number(r.index), entry: r.entry }));
}

/**
 * What proves that an event is in the ledger.
 * @param size of the tree that it is proved for; all of it where left out
 * @throws Problem 404 when there is no such event, 422 when it is not among the first `size` entries
 */
export async function inclusionOf(
	sql: Db,
	event: string,
	size?: number
): Promise<{ index: number; size: number; leaf: string; path: string[] }> {
	const whole = await sealAll(sql);
	const [leaf] = await sql<{ index: string; hash: Buffer }[]>`
		SELECT index, hash FROM ledger_leaf WHERE event_id = ${event}`;
	if (!leaf) throw new Problem([{ message: `There is no event ${event}. Check the number.`, code: 'unknown' }], 404);
	const index = Number(leaf.index);
	const of = within(size, whole) ?? whole;
	if (index >= of)
		throw new Problem([
			{
				message: `Event ${event} is entry ${index}: a ledger of ${grouped(of)} entries does not hold it. Give a larger size.`,
				at: 'size',
				code: 'size'
			}
		]);
	const path = inclusionPath(index, of);
	const lookup = await nodesOf(sql, path);
	return { index, size: of, leaf: hex(leaf.hash), path: path.map((r) => hex(rangeHash(sha256, r, lookup))) };
}

/**
 * What proves that the ledger of `to` entries begins with the ledger of `from`.
 * @throws Problem when it has not so many entries, or they are the wrong way round
 */
export async function consistencyOf(
	sql: Db,
	from: number,
	to?: number
): Promise<{ from: number; to: number; path: string[] }> {
	const whole = await sealAll(sql);
	const end = within(to, whole) ?? whole;
	if (from > end)
		throw new Problem([
			{
				message: `A ledger of ${grouped(end)} entries does not begin with ${grouped(from)}. Give the smaller size first.`,
				at: 'from',
				code: 'size'
			}
		]);
	const path = consistencyPath(from, end);
	const lookup = await nodesOf(sql, path);
	return { from, to: end, path: path.map((r) => hex(rangeHash(sha256, r, lookup))) };
}
function within(size: number | undefined, whole: number): number | undefined {
	if (size !== undefined && size > whole)
		throw new Problem([
			{
				message: `The ledger has ${grouped(whole)} entries, not ${grouped(size)}. Give at most that many.`,
				at: 'size',
				code: 'size'
			}
		]);
	return size;
}
