import { hash, verify } from '@node-rs/argon2';
import { z } from 'zod';
import { Problem } from '../../core/problem/problem.ts';
import { transaction, type Sql, type Tx } from '../database/connect.ts';
import { newSecret } from './secrets.ts';

/** A password, as it is asked of everybody. */
export const passwordText = z.string().min(10, 'A password has at least 10 characters.').max(200);

/**
 * Wrong passwords in ten minutes after which each further try has to wait: for one name from one address, for one name from
 * anywhere, and for all names from one address.
 */
const TRIES = { pair: 8, name: 30, address: 60 };
const WINDOW = '10 minutes';
/** The longest wait after a wrong password, in seconds: a person is slowed down, nobody is locked out. */
const LONGEST_WAIT = 30;

// argon2id with the library's defaults: 19 MiB, 2 passes (OWASP Password Storage Cheat Sheet names these as the least).
/** A password as it is kept (Argon2id). */
export const hashPassword = (password: string) => hash(password);
/** Compared when the login is unknown, so that time does not tell which logins exist. */
let decoy: Promise<string> | undefined;

/**
 * Is it the password of that name? Counted as a wrong one until it has proved right.
 * @returns the person; null when it is not, or nobody with that name may sign in
 * @throws Problem 429 while the next try has to wait
 */
export async function checkPassword(sql: Sql, login: string, password: string, address: string) {
	const wait = await transaction(sql, (tx) => countTry(tx, login, address));
	if (wait) throw new Problem(`Too many wrong passwords. Wait ${wait} seconds, then type it once more.`, 429);
	const [person] = await sql<{ id: string; password_hash: string; password_given: boolean }[]>`
		SELECT id, password_hash, password_given FROM person WHERE login = ${login} AND active`;
	const kept = person?.password_hash ?? (await (decoy ??= hash(newSecret())));
	const right = await verify(kept, password).catch(() => false);
	if (!person || !right) return null;
	await sql`DELETE FROM sign_in_failure WHERE (login = ${login} AND address = ${address}) OR at < now() - ${WINDOW}::interval`;
	return person;
}

/**
 * Counts a try as a failure until it has succeeded. From where a person has signed in before only their own wrong tries there
 * count: nobody elsewhere keeps them out.
 * @returns how many seconds it has to wait; 0 when it may be tried
 */
async function countTry(tx: Tx, login: string, address: string): Promise<number> {
	// In this order for everybody: many at once are counted one after the other, by name and by address.
	await tx`SELECT pg_advisory_xact_lock(hashtext('sign in from'), hashtext(${address}))`;
	await tx`SELECT pg_advisory_xact_lock(hashtext('sign in'), hashtext(${login}))`;
	const [seen] = await tx<(Record<keyof typeof TRIES, [count: number, since: number]> & { known: boolean })[]>`
		SELECT json_build_array(count(*) FILTER (WHERE login = ${login} AND address = ${address}), extract(epoch FROM clock_timestamp() - max(at) FILTER (WHERE login = ${login} AND address = ${address}))) AS pair,
			json_build_array(count(*) FILTER (WHERE login = ${login}), extract(epoch FROM clock_timestamp() - max(at) FILTER (WHERE login = ${login}))) AS name,
			json_build_array(count(*) FILTER (WHERE address = ${address}), extract(epoch FROM clock_timestamp() - max(at) FILTER (WHERE address = ${address}))) AS address,
			EXISTS (SELECT 1 FROM sign_in_known k WHERE k.login = ${login} AND k.address = ${address}) AS known
		FROM sign_in_failure WHERE (address = ${address} OR login = ${login}) AND at > now() - ${WINDOW}::interval`;
	const wait = (by: keyof typeof TRIES, each = 1) => {
		const [count, since] = seen[by];
		const over = Math.floor((count - TRIES[by]) / each);
		const pause = over < 0 ? 0 : Math.min(LONGEST_WAIT, 2 ** Math.min(over + 1, 5));
		return Math.max(0, Math.ceil(pause - (since ?? 3600)));
	};
	const waits = seen.known ? wait('pair') : Math.max(wait('pair'), wait('name', 10), wait('address', 10));
	if (waits) return waits;
	await tx`INSERT INTO sign_in_failure (login, address, at) VALUES (${login}, ${address}, clock_timestamp())`;
	return 0;
}
