import type { DateLanguage } from '../../core/dates/language.ts';
import type { DecimalSign } from '../../core/quantity/sign.ts';
import type { Db, Sql } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import type { Role } from '../../core/people/can.ts';
import { checkPassword } from './passwords.ts';
import { digest, newSecret } from './secrets.ts';

/** Who is signed in. */
export interface Person {
	login: string;
	name: string;
	role: Role;
	/** how the firm writes decimals */
	sign: DecimalSign;
	/** the language that they read dates in */
	dates: DateLanguage;
	/** signed in with a password that somebody else gave: nothing may be done before one's own is set */
	asksPassword: boolean;
}
/** How long a session lasts, in hours. */
export const SESSION_HOURS = 14;
/**
 * Signs a person in. Each try is counted before it is tried, one after the other for a name, so that many at once are
 * not more than so many.
 * @param browser how the browser names itself (User-Agent), for the person's list of sessions
 * @returns the session's secret, for the cookie
 * @throws Problem 401 for a wrong login or password, 429 while the next try has to wait
 */
export async function signIn(
	sql: Sql,
	login: string,
	password: string,
	address: string,
	browser = ''
): Promise<string> {
	const person = await checkPassword(sql, login, password, address);
	if (!person) throw new Problem('This name and password do not go together. Type them again.', 401);
	const secret = newSecret();
	await sql`INSERT INTO sign_in_known (login, address) VALUES (${login}, ${address}) ON CONFLICT (login, address) DO UPDATE SET at = now()`;
	await sql`DELETE FROM session WHERE expires_at < now()`;
	await sql`INSERT INTO session (token_hash, person_id, expires_at, address, browser, asks_password)
		VALUES (${digest(secret)}, ${person.id}, now() + make_interval(hours => ${SESSION_HOURS}), ${address}, ${browser.slice(0, 300)}, ${person.password_given})`;
	return secret;
}

/** One's sessions that are open. */
export interface Session {
	id: string;
	/** when it began and when it ends by itself */
	since: Date;
	until: Date;
	/** the network address that it came from; empty when it began before that was kept */
	address: string;
	/** how the browser named itself */
	browser: string;
	/** the session that asks */
	here: boolean;
}
/** A person's open sessions, the newest first. @param secret of the session that asks */
export const sessionsOf = (sql: Db, login: string, secret: string) => sql<Session[]>`
	SELECT s.id, s.created_at AS since, s.expires_at AS until, s.address, s.browser, s.token_hash = ${digest(secret)} AS here
	FROM session s JOIN person p ON p.id = s.person_id WHERE p.login = ${login} AND s.expires_at > now() ORDER BY s.id DESC`;

/**
 * Ends one of a person's own sessions, or all but the one that asks. One that has ended already is no mistake.
 * @param one its id; null for all others
 */
export async function endSessions(sql: Db, login: string, secret: string, one: string | null): Promise<void> {
	await sql`DELETE FROM session s USING person p WHERE p.id = s.person_id AND p.login = ${login}
		AND ${one ? sql`s.id = ${one}` : sql`s.token_hash <> ${digest(secret)}`}`;
}

/** Whose session it is; null when it has ended. */
export async function personOf(sql: Db, secret: string): Promise<Person | null> {
	const [person] = await sql<Person[]>`
		SELECT p.login, p.name, p.role, f.decimal_sign AS sign, p.dates, s.asks_password AS "asksPassword" FROM session s JOIN person p ON p.id = s.person_id AND p.active CROSS JOIN firm f
		WHERE s.token_hash = ${digest(secret)} AND s.expires_at > now()`;
	return person ?? null;
}

/** Ends the session of a secret. */
export const signOut = (sql: Db, secret: string) => sql`DELETE FROM session WHERE token_hash = ${digest(secret)}`;
