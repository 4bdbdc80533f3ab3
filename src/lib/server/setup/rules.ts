import { z } from 'zod';
import type { Db } from '../database/connect.ts';
import { lineSteps } from '../../core/document/kinds.ts';
import { inSentence } from '../../core/marking/sentence.ts';
import {
	asksOf,
	changesOf,
	ENOUGH,
	HOWS,
	nothing,
	STEPS,
	type Enough,
	type How,
	type Rule,
	type RuleChange
} from '../../core/marking/rule.ts';
import { show } from '../../core/quantity/quantity.ts';
import { Problem } from '../../core/problem/problem.ts';

const how = z.enum(HOWS);
/** A marking rule, as parsed: each step once. */
export const rulesInput = z
	.array(
		z.strictObject({
			step: z.enum(STEPS),
			lot: how,
			serial: how,
			expiry: how.default('not asked'),
			evidence: z.enum(ENOUGH).default('any'),
			facts: z.record(z.string().regex(/^[A-Za-z0-9._-]{1,30}$/), how).default({})
		})
	)
	.max(STEPS.length);
/** The same, read. */
export type RulesInput = z.output<typeof rulesInput>;
/** Whose rule it is: an item's own, or that of a kind of items. */
export type Owner = { item: string } | { kind: string };

/** A rule as rows of its steps, all of them, for a query whose outer row is called `i` and has own_rule, kind_id and id. */
export const rulesOf = (sql: Db) => sql`coalesce((
	SELECT json_agg(json_build_object('step', r.step, 'lot', r.lot, 'serial', r.serial, 'expiry', r.expiry, 'evidence', r.evidence, 'facts', coalesce((
		SELECT json_object_agg(c.code, f.how) FROM item_fact f JOIN fact c ON c.id = f.fact_id WHERE f.item_id = i.id AND f.step = r.step), '{}')))
	FROM item_rule r WHERE r.item_id = i.id), '[]')`;

/** The steps of a rule in their order, with nothing asked where nothing is said. */
export const inOrder = (rules: Rule[]): Rule[] =>
	STEPS.map((step) => rules.find((r) => r.step === step) ?? nothing(step));

/** The rule of a kind, in the order of the steps. */
export async function kindRules(sql: Db, kindId: string): Promise<Rule[]> {
	return inOrder(
		await sql<Rule[]>`
		SELECT r.step, r.lot, r.serial, r.expiry, r.evidence, coalesce((SELECT json_object_agg(c.code, f.how) FROM fact_rule f JOIN fact c ON c.id = f.fact_id
			WHERE f.kind_id = r.kind_id AND f.step = r.step), '{}') AS facts FROM marking_rule r WHERE r.kind_id = ${kindId}`
	);
}

/** Writes a rule: only what changed gets a new date. @throws Problem when a fact is unknown */
export async function saveRules(tx: Db, owner: Owner, rules: RulesInput): Promise<void> {
	const [item, kind] = 'item' in owner ? [owner.item, null] : [null, owner.kind];
	const mine = item ? tx`item_id = ${item}` : tx`kind_id = ${kind}`;
	const steps = rules.map((r) => r.step);
	const given = tx`unnest(${steps}::text[], ${rules.map((r) => r.lot)}::text[], ${rules.map((r) => r.serial)}::text[], ${rules.map((r) => r.expiry)}::text[],
		${rules.map((r) => r.evidence)}::text[]) n(step, lot, serial, expiry, evidence)`;
	await tx`UPDATE marking_rule r SET lot = n.lot, serial = n.serial, expiry = n.expiry, evidence = n.evidence, since = now() FROM ${given}
		WHERE r.${mine} AND r.step = n.step AND (r.lot, r.serial, r.expiry, r.evidence) <> (n.lot, n.serial, n.expiry, n.evidence)`;
	await tx`INSERT INTO marking_rule (item_id, kind_id, step, lot, serial, expiry, evidence) SELECT ${item}::bigint, ${kind}::bigint, n.* FROM ${given}
		WHERE NOT EXISTS (SELECT 1 FROM marking_rule r WHERE r.${mine} AND r.step = n.step)`;
	const facts = rules.flatMap((r) =>
		Object.entries(r.facts).flatMap(([code, h]) => (h === 'not asked' ? [] : [{ step: r.step, code, how: h }]))
	);
	await tx`DELETE FROM fact_rule r WHERE r.${mine} AND r.step = ANY(${steps})`;
	const saved = await tx`INSERT INTO fact_rule (item_id, kind_id, fact_id, step, how)
		SELECT ${item}::bigint, ${kind}::bigint, f.id, n.step, n.how FROM unnest(${facts.map((f) => f.code)}::text[], ${facts.map((f) => f.step)}::text[], ${facts.map((f) => f.how)}::text[]) n(code, step, how)
		JOIN fact f ON f.code = n.code`;
	if (saved.count !== facts.length)
		throw new Problem([{ message: 'A fact of the rule is not known any more. Reload the page.', at: 'rules' }]);
}

/** A rule as its history keeps it: for each step what is asked there. */
export const ruleSettings = (rules: readonly Rule[]): Record<string, string> =>
	Object.fromEntries(
		rules.map((r) => {
			const asked = asksOf(r)
				.filter(([, h]) => h !== 'not asked')
				.map(([what, h]) => `${what} ${h}`)
				.sort();
			if (r.evidence !== 'any') asked.push(r.evidence === 'scanned' ? 'scanned' : 'scanned or typed');
			return [`asked at ${r.step}`, asked.join(', ') || 'nothing'];
		})
	);

/** What a changed demand means, after what it is about. */
const SAYS: Record<How | Enough, string> = {
	'not asked': 'is no longer asked',
	asked: 'is asked',
	required: 'is required',
	any: 'may be known by any means',
	entered: 'must be scanned, typed or chosen',
	scanned: 'must be scanned'
};

/** Items that a change of rule touches, with the rule that counts for each now. */
export interface Touched {
	id: string;
	code: string;
	unit: string;
	tracking: string;
	runMode: string;
	rules: Rule[];
}

/** @throws Problem when an item whose every finished piece has a run of its own would do without its serial */
export function refuseRule(items: Touched[], rules: { step: string; serial: string }[]): void {
	const output = rules.find((r) => r.step === 'production output');
	const hit = items.find((i) => i.runMode === 'unit');
	if (hit && output && output.serial !== 'required')
		throw new Problem([
			{
				message: `${hit.code} is made one by one: its serial is required at production output. Set that step back to required.`,
				at: 'rules'
			}
		]);
}

/**
 * What a change of a marking rule means for the stock on hand and the documents that are open, in sentences; for one
 * item or for all of a kind.
 * @returns empty when the rule stays as it is
 */
export async function meansFor(
	sql: Db,
	items: Touched[],
	rules: Rule[],
	names: Record<string, string>
): Promise<string[]> {
	const carried = (i: Touched, c: RuleChange) =>
		c.what === 'lot' || c.what === 'serial' ? i.tracking.includes(c.what) : i.tracking !== 'none';
	const changes = items.flatMap((item) =>
		changesOf(item.rules, rules)
			.filter((c) => carried(item, c))
			.map((c) => ({ ...c, item }))
	);
	if (!changes.length) return [];
	const ids = [...new Set(changes.map((c) => c.item.id))];
	const stock = await sql<{ item: string; unmarked: string; lots: string }[]>`
		SELECT k.item_id AS item, coalesce(trim_scale(sum(b.qty) FILTER (WHERE k.kind = 'unmarked')), 0)::text AS unmarked, coalesce(trim_scale(sum(b.qty) FILTER (WHERE k.kind = 'lot')), 0)::text AS lots
		FROM mark k JOIN balance b ON b.mark_id = k.id AND NOT b.virtual AND b.qty > 0 WHERE k.item_id = ANY(${ids}::bigint[]) GROUP BY 1`;
	const lines = lineSteps();
	const open = await sql<{ item: string; step: string; code: string }[]>`
		SELECT DISTINCT l.item_id AS item, o.code, n.step
		FROM order_line l JOIN orders o ON o.id = l.order_id AND o.closed_at IS NULL
		JOIN unnest(${lines.map((s) => s.kind)}::text[], ${lines.map((s) => s.role)}::text[], ${lines.map((s) => s.step)}::text[]) n(kind, role, step) ON n.kind = o.kind AND n.role = l.role
		WHERE l.item_id = ANY(${ids}::bigint[]) ORDER BY o.code`;
	// Steps that mean the same stand in one sentence.
	const groups = new Map<
		string,
		{ what: string; how: string; hand: string; steps: Set<string>; orders: Set<string> }
	>();
	for (const c of changes) {
		const says = SAYS[c.to];
		const what =
			c.what === 'evidence'
				? 'Which number it is'
				: c.what === 'expiry'
					? 'An expiry date'
					: c.what.startsWith('fact ')
						? (names[c.what.slice(5)] ?? c.what.slice(5))
						: `A ${c.what}`;
		const numbered = c.what === 'lot' || c.what === 'serial';
		const s = stock.find((x) => x.item === c.item.id) ?? { unmarked: '0', lots: '0' };
		const unit = c.item.unit === 'each' ? 'pieces' : c.item.unit;
		const of = items.length > 1 ? ` of ${c.item.code}` : '';
		const list = [
			c.what === 'serial' && s.lots !== '0' && `${show(s.lots)} ${unit}${of} in lots`,
			s.unmarked !== '0' && `${show(s.unmarked)} ${unit}${of} without any number`
		].filter(Boolean);
		const brings = c.step === 'receipt' || c.step === 'production output';
		const hand = !numbered
			? '.'
			: !c.stricter
				? ': what is booked without one is unmarked stock, and a trace says so as a gap.'
				: list.length && !brings
					? `. ${list.join(' and ')} on hand ${c.step === 'shipment' && c.what === 'serial' ? 'get theirs when they are shipped' : 'cannot be booked there until they have one'}.`
					: '.';
		const key = what + says + hand;
		const group = groups.get(key) ?? { what, how: says, hand, steps: new Set(), orders: new Set() };
		group.steps.add(c.step);
		for (const o of open) if (o.item === c.item.id && o.step === c.step) group.orders.add(o.code);
		groups.set(key, group);
	}
	return [...groups.values()].map(({ what, how: says, hand, steps, orders }) => {
		const first = [...orders].slice(0, 5);
		const more = orders.size - first.length;
		const last = orders.size === 1 ? 'is open and keeps' : 'are open and keep';
		return `${what} ${says} at ${inSentence([...steps])}${hand}${orders.size ? ` ${inSentence(more ? [...first, `${more} more`] : first)} ${last} to it from now on.` : ''}`;
	});
}
