import Fraction from 'fraction.js';
import type { Db } from '../database/connect.ts';
import { group } from '../../core/group/group.ts';
import { nothingOf, shareOf, type Output, type Went } from '../../core/parts/real.ts';
import { minus, plus, ZERO } from '../../core/quantity/fractions.ts';

/** Deeper than this nothing is looked at: what is made of parts of parts ends before. */
const DEEPEST = 12;
/** The most ways that are followed on one level: what is reworked again and again has more than anybody reads. */
const MOST_WAYS = 10_000;

/** A mark that it is asked of. */
export interface RealRoot {
	id: string;
	kind: 'lot' | 'serial';
	number: string;
	item: string;
	itemName: string;
	unit: string;
	/** how much of it was made */
	qty: string;
}
/** A run that made some of a mark, or the one that a unit keeps for its life. */
interface Made extends Output {
	run: string;
	mark: string;
	own: boolean;
	/** how much of the mark came to be in all, by runs and from outside */
	all: string;
}

/**
 * What really went into a lot or serial, level by level: what is in its unit now, or its share of each batch that it came
 * out of. Two statements a level.
 * @returns null when there is none, or it was not made here; `cut` where more ways lead down than are followed
 */
export async function wentInto(sql: Db, mark: string): Promise<{ root: RealRoot; went: Went; cut: boolean } | null> {
	const [root] = await sql<RealRoot[]>`
		SELECT k.id, k.kind, k.number, i.code AS item, i.name AS "itemName", i.unit, trim_scale(sum(m.qty))::text AS qty
		FROM mark k JOIN item i ON i.id = k.item_id JOIN effective_movement m ON m.mark_id = k.id AND m.role = 'make'
		WHERE k.id = ${mark} AND k.kind <> 'unmarked' GROUP BY k.id, i.id`;
	if (!root) return null;
	const went = nothingOf(root.item);
	interface Way {
		into: Went;
		mark: string;
		/** null: all that was made of it */
		qty: Fraction | null;
		path: ReadonlySet<string>;
	}
	let level: Way[] = [{ into: went, mark: root.id, qty: null, path: new Set([root.id]) }];
	for (let depth = 0; level.length && depth < DEEPEST; depth++) {
		if (level.length > MOST_WAYS) return { root, went, cut: true };
		const made = await makes(sql, [...new Set(level.map((l) => l.mark))]);
		const runs = [...new Set(made.map((m) => m.run))];
		const [outputs, uses] = await Promise.all([outputsOf(sql, runs), usesOf(sql, runs)]);
		const byMark = group(made, (m) => m.mark);
		const next: Way[] = [];
		for (const { into, mark: of, qty, path } of level)
			for (const m of byMark.get(of) ?? []) {
				// Of what was made of it in this run, as much as belongs to what is looked at.
				const whole = m.own ? new Fraction(1) : shareOf(outputs.get(m.run)!, m);
				const part = qty ? whole.mul(m.own ? qty : qty.div(m.all)) : whole;
				for (const u of uses.get(m.run) ?? []) {
					const much = part.mul(u.qty);
					let at = into.parts.get(u.item);
					if (!at) into.parts.set(u.item, (at = nothingOf(u.item)));
					at.qty = plus(at.qty, much);
					if (u.kind !== 'unmarked') at.marks.add(u.mark);
					if (!path.has(u.mark) && u.kind !== 'unmarked')
						next.push({ into: at, mark: u.mark, qty: much, path: new Set([...path, u.mark]) });
				}
			}
		level = next;
	}
	return { root, went, cut: false };
}

const makes = (sql: Db, marks: readonly string[]) => sql<Made[]>`
	WITH w AS (SELECT unnest(${[...marks]}::bigint[]) AS id),
	made AS (SELECT m.run_id, m.mark_id, sum(m.qty) AS qty FROM w JOIN effective_movement m ON m.mark_id = w.id AND m.role = 'make' GROUP BY 1, 2),
	came AS (SELECT m.mark_id, sum(m.qty) AS qty FROM w JOIN effective_movement m ON m.mark_id = w.id AND m.role IS NULL JOIN place f ON f.id = m.from_place AND f.code IN ('@supplier', '@adjust') GROUP BY 1)
	SELECT d.run_id AS run, d.mark_id AS mark, r.unit_mark IS NOT NULL AS own, trim_scale(d.qty)::text AS qty, trim_scale(i.content_qty)::text AS holds, i.content_unit AS "holdsUnit",
		trim_scale((SELECT sum(x.qty) FROM made x WHERE x.mark_id = d.mark_id) + coalesce((SELECT c.qty FROM came c WHERE c.mark_id = d.mark_id), 0))::text AS all
	FROM made d JOIN run r ON r.id = d.run_id JOIN mark k ON k.id = d.mark_id JOIN item i ON i.id = k.item_id`;

/** Everything that came out of some runs. */
async function outputsOf(sql: Db, runs: readonly string[]): Promise<ReadonlyMap<string, Output[]>> {
	const rows = await sql<(Output & { run: string })[]>`
		SELECT m.run_id AS run, trim_scale(sum(m.qty))::text AS qty, trim_scale(i.content_qty)::text AS holds, i.content_unit AS "holdsUnit"
		FROM effective_movement m JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
		WHERE m.run_id = ANY(${[...runs]}::bigint[]) AND m.role = 'make' GROUP BY m.run_id, i.id`;
	return group([...rows], (r) => r.run);
}
/** What is in some runs: put in, less what was taken out again. */
async function usesOf(sql: Db, runs: readonly string[]) {
	const rows = await sql<{ run: string; mark: string; kind: string; item: string; used: string; out: string }[]>`
		SELECT m.run_id AS run, m.mark_id AS mark, k.kind, i.code AS item, sum(m.qty) FILTER (WHERE m.role = 'use')::text AS used,
			coalesce(sum(m.qty) FILTER (WHERE m.role = 'detach'), 0)::text AS out
		FROM effective_movement m JOIN mark k ON k.id = m.mark_id JOIN item i ON i.id = k.item_id
		WHERE m.run_id = ANY(${[...runs]}::bigint[]) AND m.role IN ('use', 'detach') GROUP BY m.run_id, m.mark_id, k.kind, i.code ORDER BY i.code`;
	const net = rows
		.map((r) => ({ ...r, qty: minus(new Fraction(r.used ?? 0), new Fraction(r.out)) }))
		.filter((r) => r.qty.compare(ZERO) > 0);
	return group(net, (r) => r.run);
}
