import { hash, verify } from '@node-rs/argon2';
import type { Db, Sql } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import type { Role } from '../../core/people/can.ts';
import { digest, newSecret } from './secrets.ts';

export interface Person {
	login: string;
	name: string;
	role: Role;
}
export const SESSION_HOURS = 14;
const TRIES = 8;
const WINDOW = '10 minutes';

// argon2id with the library's defaults: 19 MiB, 2 passes (OWASP Password Storage Cheat Sheet names these as the least).
export const hashPassword = (password: string) => hash(password);
/** Compared when the login is unknown, so that time does not tell which logins exist. */
let decoy: Promise<string> | undefined;

/**
 * Signs a person in.
 * @returns the session's secret, for the cookie
 * @throws Problem 401 for a wrong login or password, 429 after eight failures in ten minutes for a login or an address
 */
export async function signIn(sql: Sql, login: string, password: string, address: string): Promise<string> {
	const [{ n }] = await sql<{ n: number }[]>`
		SELECT greatest(count(*) FILTER (WHERE login = ${login}), count(*) FILTER (WHERE address = ${address}) / 4)::int AS n
		FROM sign_in_failure WHERE at > now() - ${WINDOW}::interval AND (login = ${login} OR address = ${address})`;
	if (n >= TRIES) throw new Problem('Too many wrong passwords. Wait ten minutes, or ask the administrator.', 429);
	const [person] = await sql<{ id: string; password_hash: string }[]>`
		SELECT id, password_hash FROM person WHERE login = ${login} AND active`;
	const right = await verify(person?.password_hash ?? (await (decoy ??= hash(newSecret()))), password).catch(
		() => false
	);
	if (!person || !right) {
		await sql`INSERT INTO sign_in_failure (login, address) VALUES (${login}, ${address})`;
		throw new Problem('This name and password do not go together. Type them again.', 401);
	}
	const secret = newSecret();
	await sql`DELETE FROM sign_in_failure WHERE login = ${login} OR at < now() - ${WINDOW}::interval`;
	await sql`DELETE FROM session WHERE expires_at < now()`;
	await sql`INSERT INTO session (token_hash, person_id, expires_at)
		VALUES (${digest(secret)}, ${person.id}, now() + make_interval(hours => ${SESSION_HOURS}))`;
	return secret;
}

export async function personOf(sql: Db, secret: string): Promise<Person | null> {
	const [person] = await sql<Person[]>`
		SELECT p.login, p.name, p.role FROM session s JOIN person p ON p.id = s.person_id AND p.active
		WHERE s.token_hash = ${digest(secret)} AND s.expires_at > now()`;
	return person ?? null;
}

export const signOut = (sql: Db, secret: string) => sql`DELETE FROM session WHERE token_hash = ${digest(secret)}`;
