import { z } from 'zod';
import type { Db } from '../database/connect.ts';
import { asDelivered, CHECKS, type Check, type Policy } from '../../core/policy/policy.ts';
import { parse } from '../people/people.ts';

/** How strongly the firm takes what each check finds. */
export async function readPolicy(sql: Db): Promise<Policy> {
	const policy = asDelivered();
	for (const r of await sql<{ code: Check; strength: Policy[Check] }[]>`SELECT code, strength FROM check_policy`)
		if (r.code in policy) policy[r.code] = r.strength;
	return policy;
}
const policyInput = z.partialRecord(
	z.enum(Object.keys(CHECKS) as [Check, ...Check[]]),
	z.enum(['stop', 'reason', 'note'])
);
export async function savePolicy(sql: Db, by: string, input: unknown): Promise<void> {
	const policy = parse(policyInput, input);
	const codes = Object.keys(policy);
	const strengths = Object.values(policy) as string[];
	await sql`INSERT INTO check_policy (code, strength, changed_by) SELECT n.*, ${by}::text FROM unnest(${codes}::text[], ${strengths}::text[]) n(code, strength)
		ON CONFLICT (code) DO UPDATE SET strength = excluded.strength, changed_by = excluded.changed_by, changed_at = now() WHERE check_policy.strength <> excluded.strength`;
}
