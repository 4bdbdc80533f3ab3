import { z } from 'zod';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import type { Rule } from '../../core/marking/rule.ts';
import { Problem } from '../../core/problem/problem.ts';
import { line } from '../../core/text/input.ts';
import { keepHistory } from '../history/history.ts';
import { parse } from '../parse.ts';
import { listFacts } from './facts.ts';
import {
	kindRules,
	meansFor,
	refuseRule,
	rulesInput,
	rulesOf,
	ruleSettings,
	saveRules,
	type Touched
} from './rules.ts';

/** A kind of item, as parsed. */
export const kindInput = z.strictObject({
	code: z
		.string()
		.trim()
		.regex(/^[A-Za-z0-9._-]{1,30}$/, 'A kind’s code has 1 to 30 letters, digits, dots or dashes.'),
	name: line(100, 1, 'Type a name.'),
	rules: rulesInput
});
/** The same before what was left out is filled in. */
export type KindInput = z.input<typeof kindInput>;

/** A kind as the list shows it. */
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
	const members = await sql<
		{ code: string; name: string; ownRule: boolean }[]
	>`SELECT code, name, own_rule AS "ownRule" FROM item WHERE kind_id = ${kind.id} ORDER BY name`;
	return { ...kind, rules: await kindRules(sql, kind.id), members: [...members] };
}

/** The items that go by a kind's rule. */
const followers = (sql: Db, code: string) => sql<Touched[]>`
	SELECT i.id, i.code, i.unit, i.tracking, i.run_mode AS "runMode", ${rulesOf(sql)} AS rules
	FROM item i JOIN item_kind k ON k.id = i.kind_id AND k.code = ${code} WHERE NOT i.own_rule ORDER BY i.code`;

/** What a change of a kind's rule means for what is on hand and open of its items, in sentences. */
export async function kindMeans(sql: Db, code: string, input: unknown): Promise<string[]> {
	const rules = parse(rulesInput, input);
	const names = Object.fromEntries((await listFacts(sql)).map((f) => [f.code, f.name]));
	return meansFor(sql, [...(await followers(sql, code))], rules, names);
}

/**
 * Makes a kind of items with its rule, or changes one; what goes by its rule goes by the new one from then on.
 * @param code of the kind to change; null for a new one
 */
export async function saveKind(sql: Sql, by: string, input: unknown, code: string | null = null): Promise<void> {
	const kind = parse(kindInput, input);
	await transaction(sql, async (tx) => {
		if (code === null) {
			const [made] = await tx<
				{ id: string }[]
			>`INSERT INTO item_kind (code, name, created_by) VALUES (${kind.code}, ${kind.name}, ${by}) ON CONFLICT DO NOTHING RETURNING id`;
			if (!made)
				throw new Problem([{ message: `There is a kind ${kind.code} already. Take another code.`, at: 'code' }]);
			await saveRules(tx, { kind: made.id }, kind.rules);
			await keepHistory(tx, by, 'kind', kind.code, null, { name: kind.name, ...ruleSettings(kind.rules) });
			return;
		}
		const was = await getKind(tx, code);
		const [there] = await tx<
			{ id: string }[]
		>`UPDATE item_kind SET name = ${kind.name} WHERE code = ${code} RETURNING id`;
		if (!there) throw new Problem(`There is no kind ${code}. Reload the page.`, 404);
		refuseRule([...(await followers(tx, code))], kind.rules);
		await saveRules(tx, { kind: there.id }, kind.rules);
		const before = was && { name: was.name, ...ruleSettings(was.rules) };
		await keepHistory(tx, by, 'kind', code, before, { name: kind.name, ...ruleSettings(kind.rules) });
	});
}
