import { z } from 'zod';
import { transaction, type Sql } from '../database/connect.ts';
import { isRole, roles, type Role } from '../../core/people/can.ts';
import { line } from '../../core/text/input.ts';
import { parseDay, showDay, type Day } from '../../core/dates/dates.ts';
import { Problem } from '../../core/problem/problem.ts';
import { firmToday } from '../list/page.ts';
import { keepHistory } from '../history/history.ts';
import { parse } from '../parse.ts';
import { digest, newSecret } from './secrets.ts';

/**
 * Makes an API token.
 * @param ends the last day that it is good for, as typed; none where it is empty
 * @returns its secret; it is shown this once and kept only as a digest
 */
export async function makeToken(sql: Sql, name: string, role: string, by: string, ends = ''): Promise<string> {
	const { ends: typed, ...given } = parse(tokenInput, { name, role, ends });
	const endsOn = typed ? await lastDay(sql, typed) : null;
	const secret = 'em_' + newSecret();
	await transaction(sql, async (tx) => {
		const [{ id }] = await tx<{ id: string }[]>`
			INSERT INTO api_token (name, role, token_hash, created_by, ends_on) VALUES (${given.name}, ${given.role}, ${digest(secret)}, ${by}, ${endsOn}) RETURNING id`;
		await keepHistory(tx, by, 'token', id, null, { ...given, endsOn, revoked: false });
	});
	return secret;
}
/** A day from today on. @throws Problem saying why it is none */
async function lastDay(sql: Sql, typed: string): Promise<Day> {
	const today = await firmToday(sql);
	const read = parseDay(typed, today);
	const problem =
		'problem' in read
			? read.problem
			: read.day < today
				? `${showDay(read.day)} is over. Give a day from today on.`
				: '';
	if (problem || !('day' in read)) throw new Problem([{ message: problem, at: 'ends' }]);
	return read.day;
}
/** An access for a program, as parsed. */
export const tokenInput = z.strictObject({
	name: line(
		60,
		1,
		'Name the program that will use it, in at most 60 characters.',
		'Name the program that will use it, in at most 60 characters.'
	),
	role: z.string().refine(isRole, {
		error: (i) => `There is no role ${String(i.input).slice(0, 40)}. Take one of: ${roles.join(', ')}.`
	}),
	ends: line(40, 0)
});

/** Takes a token's rights away for good, at once in every instance. */
export async function revokeToken(sql: Sql, by: string, id: string): Promise<void> {
	await transaction(sql, async (tx) => {
		const [done] = await tx<{ hash: string }[]>`
			UPDATE api_token SET revoked_at = now() WHERE id = ${id} AND revoked_at IS NULL RETURNING token_hash AS hash`;
		if (!done) {
			const [there] = await tx`SELECT 1 FROM api_token WHERE id = ${id}`;
			if (!there) throw new Problem(`There is no access ${id}. Reload the page.`, 404);
			return;
		}
		await keepHistory(tx, by, 'token', id, { revoked: false }, { revoked: true });
		await tx`SELECT pg_notify('token', ${done.hash})`;
	});
}

/** Whose token it is. */
export interface Owner {
	name: string;
	role: Role;
}
/** How long a token is taken for good without asking again, in ms; one that is withdrawn is forgotten before. */
const KEPT = 1000;
/** Tokens that were looked up just now, and whether this process is told of those that are withdrawn. */
interface Seen {
	owners: Map<string, { owner: Owner; until: number }>;
	/** grows whenever something is withdrawn; 0 until this process is told of it */
	told: number;
}
const seen = new WeakMap<Sql, Seen>();

/** What is kept for a pool; from the first time on it listens for what is withdrawn, and keeps nothing before. */
function seenBy(sql: Sql): Seen {
	const there = seen.get(sql);
	if (there) return there;
	const made: Seen = { owners: new Map(), told: 0 };
	seen.set(sql, made);
	sql
		.listen(
			'token',
			(hash) => {
				made.owners.delete(hash);
				made.told++;
			},
			() => {
				// Also after the connection was lost: what was withdrawn meanwhile nobody has told.
				made.owners.clear();
				made.told++;
			}
		)
		.catch(() => seen.delete(sql));
	return made;
}

/** Whose token it is; null when it is unknown, revoked or over. The last use is noted to the minute. */
export async function tokenOwner(sql: Sql, secret: string): Promise<Owner | null> {
	const hash = digest(secret);
	const tokens = seenBy(sql);
	const { owners, told } = tokens;
	const kept = owners.get(hash);
	if (kept && kept.until > performance.now()) return kept.owner;
	owners.delete(hash);
	const [token] = await sql<{ id: string; name: string; role: Role; stale: boolean }[]>`
		SELECT id, name, role, coalesce(last_used_at < now() - interval '1 minute', true) AS stale
		FROM api_token WHERE token_hash = ${hash} AND revoked_at IS NULL AND (ends_on IS NULL OR ends_on >= shown_day(now())::date)`;
	if (!token) return null;
	if (token.stale) await sql`UPDATE api_token SET last_used_at = now() WHERE id = ${token.id}`;
	const owner = { name: `token ${token.name}`, role: token.role };
	// Withdrawn while it was looked up, it is not kept.
	if (told && told === tokens.told) owners.set(hash, { owner, until: performance.now() + KEPT });
	return owner;
}
