import type { Db } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import { roles, type Role } from '../../core/people/can.ts';
import { digest, newSecret } from './secrets.ts';

/** Makes an API token. @returns its secret; it is shown this once and kept only as a digest */
export async function makeToken(sql: Db, name: string, role: string, by: string): Promise<string> {
	if (!name.trim() || name.length > 60) throw new Problem([{ message: 'Name the program that will use it, in at most 60 characters.', at: 'name' }]); // prettier-ignore
	if (!roles.includes(role as Role)) throw new Problem([{ message: `There is no role ${role.slice(0, 40)}. Take one of: ${roles.join(', ')}.`, at: 'role' }]); // prettier-ignore
	const secret = 'em_' + newSecret();
	await sql`INSERT INTO api_token (name, role, token_hash, created_by) VALUES (${name.trim()}, ${role}, ${digest(secret)}, ${by})`;
	return secret;
}

export const listTokens = (sql: Db) => sql<
	{
		id: string;
		name: string;
		role: string;
		createdBy: string;
		createdAt: string;
		lastUsedAt: string | null;
		revokedAt: string | null;
	}[]
>`
	SELECT id, name, role, created_by AS "createdBy", to_char(created_at, 'YYYY-MM-DD') AS "createdAt",
		to_char(last_used_at, 'YYYY-MM-DD HH24:MI') AS "lastUsedAt", to_char(revoked_at, 'YYYY-MM-DD HH24:MI') AS "revokedAt"
	FROM api_token ORDER BY revoked_at IS NOT NULL, created_at DESC`;

export async function revokeToken(sql: Db, id: string) {
	await sql`UPDATE api_token SET revoked_at = now() WHERE id = ${id} AND revoked_at IS NULL`;
}

/** Whose token it is; null when it is unknown or revoked. The last use is noted to the minute. */
export async function tokenOwner(sql: Db, secret: string): Promise<{ name: string; role: Role } | null> {
	const [token] = await sql<{ id: string; name: string; role: Role; stale: boolean }[]>`
		SELECT id, name, role, coalesce(last_used_at < now() - interval '1 minute', true) AS stale
		FROM api_token WHERE token_hash = ${digest(secret)} AND revoked_at IS NULL`;
	if (!token) return null;
	if (token.stale) await sql`UPDATE api_token SET last_used_at = now() WHERE id = ${token.id}`;
	return { name: `token ${token.name}`, role: token.role };
}
