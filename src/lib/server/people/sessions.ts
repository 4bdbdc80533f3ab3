import type { DecimalSign } from '../../core/quantity/sign.ts';
import { hash, verify } from '@node-rs/argon2';
import { transaction, type Db, type Sql, type Tx } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import type { Role } from '../../core/people/can.ts';
import { digest, newSecret } from './secrets.ts';

/** Who is signed in. */
export interface Person {
	login: string;
	name: string;
	role: Role;
	/** how the firm writes decimals */
	sign: DecimalSign;
}
/** How long a session lasts, in hours. */
export const SESSION_HOURS = 14;
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
 * Signs a person in. Each try is counted before it is tried, one after the other for a name, so that many at once are
 * not more than so many.
 * @returns the session's secret, for the cookie
 * @throws Problem 401 for a wrong login or password, 429 while the next try has to wait
 */
export async function signIn(sql: Sql, login: string, password: string, address: string): Promise<string> {
	const wait = await transaction(sql, (tx) => countTry(tx, login, address));
	if (wait) throw new Problem(`Too many wrong passwords. Wait ${wait} seconds, then type it once more.`, 429);
	const [person] = await sql<{ id: string; password_hash: string }[]>`
		SELECT id, password_hash FROM person WHERE login = ${login} AND active`;
	const right = await verify(person?.password_hash ?? (await (decoy ??= hash(newSecret()))), password).catch(
		() => false
	);
	if (!person || !right) throw new Problem('This name and password do not go together. Type them again.', 401);
	const secret = newSecret();
	await sql`DELETE FROM sign_in_failure WHERE (login = ${login} AND address = ${address}) OR at < now() - ${WINDOW}::interval`;
	await sql`INSERT INTO sign_in_known (login, address) VALUES (${login}, ${address}) ON CONFLICT (login, address) DO UPDATE SET at = now()`;
	await sql`DELETE FROM session WHERE expires_at < now()`;
	await sql`INSERT INTO session (token_hash, person_id, expires_at)
		VALUES (${digest(secret)}, ${person.id}, now() + make_interval(hours => ${SESSION_HOURS}))`;
	return secret;
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

/** Whose session it is; null when it has ended. */
export async function personOf(sql: Db, secret: string): Promise<Person | null> {
	const [person] = await sql<Person[]>`
		SELECT p.login, p.name, p.role, f.decimal_sign AS sign FROM session s JOIN person p ON p.id = s.person_id AND p.active CROSS JOIN firm f
		WHERE s.token_hash = ${digest(secret)} AND s.expires_at > now()`;
	return person ?? null;
}

/** Ends the session of a secret. */
export const signOut = (sql: Db, secret: string) => sql`DELETE FROM session WHERE token_hash = ${digest(secret)}`;
