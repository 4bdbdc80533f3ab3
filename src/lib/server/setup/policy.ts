import { z } from 'zod';
import { transaction, type Sql } from '../database/connect.ts';
import { POLICY_CHECKS } from '../../core/checks/catalogue.ts';
import { keepHistory } from '../history/history.ts';
import { readPolicy } from '../ledger/catalogue.ts';
import { parse } from '../parse.ts';

const codes = POLICY_CHECKS.map((c) => c.code) as [string, ...string[]];
/** How strongly checks are taken, by their codes, as parsed. */
export const policyInput = z.partialRecord(z.enum(codes), z.enum(['stop', 'reason', 'note']));

/** Sets how strongly the firm takes what each check finds; checks that are not named stay as they are. */
export async function savePolicy(sql: Sql, by: string, input: unknown): Promise<void> {
	const policy = Object.fromEntries(
		Object.entries(parse(policyInput, input)).flatMap(([code, strength]) => (strength ? [[code, strength]] : []))
	);
	await transaction(sql, async (tx) => {
		const was = await readPolicy(tx);
		await tx`INSERT INTO check_policy (code, strength, changed_by) SELECT n.*, ${by}::text
			FROM unnest(${Object.keys(policy)}::text[], ${Object.values(policy)}::text[]) n(code, strength)
			ON CONFLICT (code) DO UPDATE SET strength = excluded.strength, changed_by = excluded.changed_by, changed_at = now() WHERE check_policy.strength <> excluded.strength`;
		await keepHistory(tx, by, 'policy', 'firm', was, { ...was, ...policy });
	});
}
