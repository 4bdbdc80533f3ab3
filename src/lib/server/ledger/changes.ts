import { z } from 'zod';
import type { Sql, Tx } from '../database/connect.ts';
import { readFact, showFact, fileOf, type Facts } from '../../core/facts/fact.ts';
import type { Field } from '../../core/ledger/corrections.ts';
import type { Actor } from '../../core/ledger/input.ts';
import { sayStatus, STATUS_ACTS, type StatusAct } from '../../core/ledger/status.ts';
import { Problem } from '../../core/problem/problem.ts';
import { id, key, text } from '../../core/text/input.ts';
import { factsByCode } from '../marks/facts.ts';
import { containersOf, stoppedIn, type Container } from '../marks/inside.ts';
import { parse } from '../parse.ts';
import { append, appendWithin, type AppendOptions, type Booked, type Written } from './append.ts';

/** One change of what is recorded of a mark. */
export interface Change {
	/** its id */
	mark: string;
	field: Field;
	/** null where nothing is recorded any more */
	value: string | null;
}

/**
 * An event that moves nothing and changes what is recorded of marks, always with what it was before: the database refuses
 * a change of a mark without such a row. A number that is changed stays findable.
 * @param marks ids of those that change: they are held before anything of them is read
 */
export const appendChanges = (
	sql: Sql,
	actor: Actor,
	occasion: ChangeOccasion,
	marks: readonly string[],
	changes: (tx: Tx) => Promise<Change[]>,
	options: AppendOptions = {}
): Promise<Booked> => append(sql, actor, timed(occasion, options), changing(marks, changes), options);
interface ChangeOccasion {
	key: string;
	kind: 'correct' | keyof typeof STATUS_ACTS;
	at?: string;
	reason: string;
	document?: string | null;
}
const timed = (occasion: ChangeOccasion, { clock }: AppendOptions = {}) => ({
	...occasion,
	at: occasion.at ?? (clock?.() ?? new Date()).toISOString()
});
const changing =
	(marks: readonly string[], changes: (tx: Tx) => Promise<Change[]>) =>
	async (tx: Tx, draw: () => Promise<string>): Promise<Written> => {
		await tx`SELECT lock_marks(${[...marks]}::bigint[], NULL, true)`;
		const changed = JSON.stringify(await changes(tx));
		await tx`SELECT change_marks(${await draw()}::bigint, ${changed}::text::jsonb)`;
		return { movements: 0 };
	};

const known = 'This lot or serial is not known. Look it up in the register.';
/** A status to set, as parsed. */
export const statusGiven = z.strictObject({
	key,
	/** id of the lot or serial */
	mark: id,
	act: z.enum(Object.keys(STATUS_ACTS) as [StatusAct, ...StatusAct[]]),
	reason: text(1000, 1, 'Say why, in one line. It is kept in the ledger.'),
	at: z.iso.datetime({ offset: true, error: 'Give the time as 2026-03-14T09:30:00Z.' }).optional()
});

/**
 * Puts a lot or serial on hold or into quarantine, releases or rejects it: an event of its own, with the old and the new
 * status.
 * @throws Problem when the mark is unknown, or is in that status already
 */
export async function setStatus(sql: Sql, actor: Actor, input: unknown): Promise<Booked> {
	const { occasion, write, options } = statusChange(parse(statusGiven, input));
	return append(sql, actor, timed(occasion), write, options);
}

/**
 * The same within a booking that it belongs to, for several at once; what is in that status already stays so.
 * @param given with a key each
 */
export async function setStatusWithin(tx: Tx, actor: Actor, given: readonly StatusGiven[]): Promise<void> {
	const marks = given.map((g) => g.mark);
	// All of them at once, in the one order that everybody holds marks in.
	await tx`SELECT lock_marks(${marks}::bigint[], NULL, true)`;
	const now = await tx<
		{ id: string; status: string }[]
	>`SELECT id, status FROM mark WHERE id = ANY(${marks}::bigint[])`;
	const status = new Map(now.map((m) => [m.id, m.status]));
	for (const g of given) {
		if (status.get(g.mark) === STATUS_ACTS[g.act]) continue;
		const { occasion, write, options } = statusChange(g);
		await appendWithin(tx, actor, timed(occasion), write, options);
	}
}

type StatusGiven = z.output<typeof statusGiven>;
function statusChange({ key, mark: of, act, reason, at }: StatusGiven) {
	const status = STATUS_ACTS[act];
	return {
		occasion: { key, kind: act, reason, at },
		options: { request: { act, mark: of, reason, at } },
		write: changing([of], async (tx) => {
			const [mark] = await tx<{ number: string; status: string }[]>`
				SELECT number, status FROM mark WHERE id = ${of} AND kind <> 'unmarked'`;
			if (!mark) throw new Problem([{ message: known, at: 'mark', code: 'unknown' }]);
			if (mark.status === status)
				throw new Problem([{ message: `${mark.number} is ${sayStatus(status)} already.`, at: 'act', code: 'status' }]);
			return [{ mark: of, field: 'status', value: status }];
		})
	};
}

/** Facts to record later, as parsed. */
export const factGiven = z.strictObject({
	key,
	/** id of the lot or serial */
	mark: id,
	code: text(30, 1, 'Choose the fact.'),
	value: text(300, 1, 'Type the value.'),
	reason: text(1000, 0).default(''),
	at: z.iso.datetime({ offset: true, error: 'Give the time as 2026-03-14T09:30:00Z.' }).optional()
});

/**
 * Records a fact of a lot or serial later than its booking: an event of its own, with the old and the new value.
 * @throws Problem when the fact or the mark is unknown, the value is none, or a reason is wanted: for a value that
 * replaces another, or lies outside the fact's limits
 */
export async function recordFact(sql: Sql, actor: Actor, input: unknown): Promise<Booked> {
	const given = parse(factGiven, input);
	const [fact] = await factsByCode(sql, [given.code]);
	if (!fact)
		throw new Problem([{ message: `There is no field ${given.code}. Add it in Setup, Extra fields.`, at: 'code' }]);
	const read = readFact(fact, given.value);
	if ('problem' in read) throw new Problem([{ message: read.problem, at: 'value', code: 'fact' }]);
	if (read.outside && fact.outside === 'stop')
		throw new Problem([
			{
				message: `${read.outside} It cannot be recorded so: measure again, or put the goods on hold.`,
				at: 'value',
				code: 'fact'
			}
		]);
	const write = async (tx: Tx): Promise<Change[]> => {
		const [mark] = await tx<{ number: string; facts: Facts }[]>`
			SELECT number, facts FROM mark WHERE id = ${given.mark} AND kind <> 'unmarked'`;
		if (!mark) throw new Problem([{ message: known, at: 'mark', code: 'unknown' }]);
		const was = mark.facts[fact.code];
		if (was === read.value) throw new Problem(`${fact.name} of ${mark.number} is ${showFact(fact, was)} already.`);
		const why = was
			? `${fact.name} is recorded as ${showFact(fact, was)}.`
			: read.outside && fact.outside === 'reason'
				? read.outside
				: null;
		if (why && !given.reason)
			throw new Problem([
				{ message: `${why} Say why it is ${was ? 'changed' : 'recorded so'}, in one line.`, at: 'reason', code: 'fact' }
			]);
		const file = fact.kind === 'file' ? fileOf(read.value) : null;
		if (file) {
			if (!(await tx`SELECT 1 FROM stored_file WHERE sha256 = ${file.sha256}`).length)
				throw new Problem([
					{ message: `The file ${file.name} is not here. Add it once more.`, at: 'value', code: 'file gone' }
				]);
			await tx`INSERT INTO mark_file (mark_id, name, sha256, added_by) VALUES (${given.mark}, ${file.name}, ${file.sha256}, ${actor.name}) ON CONFLICT DO NOTHING`;
		}
		return [{ mark: given.mark, field: 'facts', value: JSON.stringify({ ...mark.facts, [fact.code]: read.value }) }];
	};
	const { key: _key, ...request } = given;
	return appendChanges(
		sql,
		actor,
		{ key: given.key, kind: 'correct', at: given.at, reason: given.reason },
		[given.mark],
		write,
		{
			request
		}
	);
}

/** What became of a number and of all that contains it. */
export interface Contained {
	booked: Booked;
	/** what is in the new status now */
	changed: Container[];
	/** what has gone, wholly or in part: that stays as it is */
	gone: Container[];
}
/**
 * Sets the status of a lot or serial and of all that contains it and is on hand, in process or in transit: one event. What has
 * gone is named and stays as it is. Released is only what stands so by the same event as the number itself, and contains
 * nothing else that is stopped.
 * @throws Problem as setStatus()
 */
export async function setStatusContained(sql: Sql, actor: Actor, input: unknown): Promise<Contained> {
	const given = parse(statusGiven, input);
	const { occasion, options } = statusChange(given);
	const all = await containersOf(sql, [given.mark]);
	const root = all.find((c) => c.mark === given.mark);
	if (!root) throw new Problem([{ message: known, at: 'mark', code: 'unknown' }]);
	const status = STATUS_ACTS[given.act];
	// What is stopped otherwise stays so; only a rejection goes further.
	const changes = (was: string) =>
		given.act === 'release' || given.act === 'reject' ? was !== status : was === 'released';
	// A serial of the lot itself stands as its lot does.
	const mine = all.filter((c) => c === root || (c.here && c.lot !== root.mark)).filter((c) => changes(c.status));
	const changed = given.act === 'release' ? await stoppedAlike(sql, root, mine, all) : mine;
	const booked = await appendChanges(
		sql,
		actor,
		timed({ ...occasion, document: withAll(root) }),
		changed.map((c) => c.mark),
		async (tx) => {
			const now = await tx<{ id: string; status: string }[]>`
				SELECT id, status FROM mark WHERE id = ANY(${changed.map((c) => c.mark)}::bigint[])`;
			const list = now.flatMap((m): Change[] =>
				changes(m.status) ? [{ mark: m.id, field: 'status', value: status }] : []
			);
			if (!list.length)
				throw new Problem([
					{
						message: `${root.number} and all that contains it and is here: nothing of it is to be changed.`,
						at: 'act',
						code: 'status'
					}
				]);
			return list;
		},
		{ ...options, request: { ...options.request, contained: true } }
	);
	const rows = await sql<
		{ mark: string }[]
	>`SELECT DISTINCT mark_id AS mark FROM mark_change WHERE event_id = ${booked.id}`;
	const done = new Set(rows.map((r) => r.mark));
	return { booked, changed: all.filter((c) => done.has(c.mark)), gone: all.filter((c) => c.gone.length) };
}

/** What such an event is of, as its history shows it. */
const withAll = (root: Pick<Container, 'number'>) => `all with ${root.number}`.slice(0, 60);

/** Of a stopped number and what contains it: what was stopped with it, and holds nothing else that is stopped. */
async function stoppedAlike(
	sql: Sql,
	root: Container,
	mine: readonly Container[],
	all: readonly Container[]
): Promise<Container[]> {
	const by = await sql<{ mark: string; event: string; document: string | null }[]>`
		SELECT DISTINCT ON (c.mark_id) c.mark_id AS mark, c.event_id AS event, e.document FROM mark_change c JOIN event e ON e.id = c.event_id
		WHERE c.mark_id = ANY(${[root, ...mine].map((c) => c.mark)}::bigint[]) AND c.field = 'status' ORDER BY c.mark_id, c.event_id DESC`;
	const last = new Map(by.map((b) => [b.mark, b]));
	const same = mine.filter((c) => {
		const stop = last.get(c.mark);
		return (
			c.mark === root.mark || (stop && (stop.event === last.get(root.mark)?.event || stop.document === withAll(root)))
		);
	});
	const freed = new Set([root, ...same].map((c) => c.mark));
	const inside = await stoppedIn(sql, [...freed]);
	// What stands stopped by the lot alone is freed with it.
	for (const c of all) if (c.lot && freed.has(c.lot) && c.status === 'released') freed.add(c.mark);
	return same.filter((c) => c.mark === root.mark || (inside.get(c.mark) ?? []).every((p) => freed.has(p.mark)));
}
