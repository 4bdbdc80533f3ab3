import { z } from 'zod';
import type { Db, Sql } from '../database/connect.ts';
import type { Rule } from '../../core/marking/rule.ts';
import { Problem } from '../../core/problem/problem.ts';
import { parse } from '../people/people.ts';
import { listFacts } from './facts.ts';
import { kindRules, meansFor, refuseRule, rulesInput, rulesOf, saveRules, type Touched } from './rules.ts';

export const kindInput = z.strictObject({
	code: z.string().trim().regex(/^[A-Za-z0-9._-]{1,30}$/, 'A kind’s code has 1 to 30 letters, digits, dots or dashes.'),
	name: z.string().trim().min(1, 'Type a name.').max(100),
	rules: rulesInput
}); // prettier-ignore
export type KindInput = z.input<typeof kindInput>;

export interface KindRow {
	id: string;
	code: string;
	name: string;
	/** items of this kind, and those of them that go by its rule */
	items: number;
	follow: number;
}
/** Kinds of items, by name. */
export const listKinds = (sql: Db) => sql<KindRow[]>`
	SELECT k.id, k.code, k.name, count(i.id)::int AS items, (count(i.id) FILTER (WHERE NOT i.own_rule))::int AS follow
	FROM item_kind k LEFT JOIN item i ON i.kind_id = k.id GROUP BY k.id ORDER BY k.name`;

/** One kind with its rule and its items; null when there is none of that code. */
export async function getKind(
	sql: Db,
	code: string
): Promise<(KindRow & { rules: Rule[]; members: { code: string; name: string; ownRule: boolean }[] }) | null> {
	const kind = (await listKinds(sql)).find((k) => k.code === code);
	if (!kind) return null;
	const members = await sql<{ code: string; name: string; ownRule: boolean }[]>`SELECT code, name, own_rule AS "ownRule" FROM item WHERE kind_id = ${kind.id} ORDER BY name`; // prettier-ignore
	return { ...kind, rules: await kindRules(sql, kind.id), members: [...members] };
}

/** The items that go by a kind's rule. */
const followers = (sql: Db, code: string) => sql<Touched[]>`
	SELECT i.id, i.code, i.unit, i.tracking, i.run_mode AS "runMode", ${rulesOf(sql)} AS rules
	FROM item i JOIN item_kind k ON k.id = i.kind_id AND k.code = ${code} WHERE NOT i.own_rule ORDER BY i.code`;

/** What a change of a kind's rule means for what is on hand and open of its items, in sentences. */
export async function kindMeans(sql: Db, code: string, rules: Rule[]): Promise<string[]> {
	const names = Object.fromEntries((await listFacts(sql)).map((f) => [f.code, f.name]));
	return meansFor(sql, [...(await followers(sql, code))], rules, names);
}

/**
 * Makes a kind of items with its rule, or changes one; what goes by its rule goes by the new one from then on.
 * @param code of the kind to change; null for a new one
 */
export async function saveKind(sql: Sql, by: string, input: KindInput, code: string | null = null): Promise<void> {
	const kind = parse(kindInput, input);
	await sql.begin(async (raw) => {
		const tx = raw as unknown as Db;
		if (code === null) {
			const [made] = await tx<{ id: string }[]>`INSERT INTO item_kind (code, name, created_by) VALUES (${kind.code}, ${kind.name}, ${by}) ON CONFLICT DO NOTHING RETURNING id`; // prettier-ignore
			if (!made)
				throw new Problem([{ message: `There is a kind ${kind.code} already. Take another code.`, at: 'code' }]);
			await saveRules(tx, { kind: made.id }, kind.rules);
			return;
		}
		const [there] = await tx<{ id: string }[]>`UPDATE item_kind SET name = ${kind.name} WHERE code = ${code} RETURNING id`; // prettier-ignore
		if (!there) throw new Problem(`There is no kind ${code}. Reload the page.`, 404);
		refuseRule([...(await followers(tx, code))], kind.rules);
		await saveRules(tx, { kind: there.id }, kind.rules);
	});
}
