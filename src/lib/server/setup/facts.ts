import { z } from 'zod';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { FACT_KINDS, type Fact } from '../../core/facts/fact.ts';
import { less } from '../../core/quantity/quantity.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { line } from '../../core/text/input.ts';
import { keepHistory } from '../history/history.ts';
import { factColumns } from '../marks/facts.ts';
import { unreadable } from '../../core/quantity/sign.ts';
import { parse } from '../parse.ts';

const decimal = z
	.string()
	.trim()
	.regex(/^-?\d{1,12}(\.\d{1,6})?$/, { error: (e) => unreadable(String(e.input), 'a number') })
	.nullish();
/** A fact that can be asked, as parsed. */
export const factInput = z.strictObject({
	code: z
		.string()
		.trim()
		.regex(/^[A-Za-z0-9._-]{1,30}$/, 'A field’s code has 1 to 30 letters, digits, dots or dashes.'),
	name: line(60, 1, 'Type a name.', 'A name has at most 60 characters.'),
	kind: z.enum(FACT_KINDS),
	unit: line(20).nullish(),
	decimals: z.coerce.number().int().min(0).max(6).default(0),
	low: decimal,
	high: decimal,
	choices: z.array(line(60)).max(50).default([]),
	outside: z.enum(['stop', 'reason', 'note']).default('reason'),
	per: z.enum(['lot', 'piece']).default('lot')
});
/** The same before what was left out is filled in. */
export type FactInput = z.input<typeof factInput>;

/** A fact as the list shows it. */
export interface FactRow extends Fact {
	id: string;
	/** items and kinds whose rules ask it */
	asked: number;
	/** true when a lot or serial has it: its kind and unit stay then */
	used: boolean;
}
/** The facts that the firm has defined, by name; all, or those of some codes. */
export const listFacts = (sql: Db, codes: string[] | null = null) => sql<FactRow[]>`
	SELECT f.id, ${factColumns(sql)}, (SELECT count(DISTINCT (r.item_id, r.kind_id))::int FROM fact_rule r WHERE r.fact_id = f.id) AS asked,
		EXISTS (SELECT 1 FROM mark k WHERE k.facts <> '{}' AND k.facts ? f.code) AS used
	FROM fact f ${codes ? sql`WHERE f.code = ANY(${codes})` : sql``} ORDER BY f.name`;

/**
 * Defines a fact, or changes one. What its recorded values mean stays: the kind and the unit of a fact in use cannot
 * change, and a choice in use cannot be taken out.
 * @param code of the fact to change; null for a new one
 * @throws Problem naming each faulty field
 */
export async function saveFact(sql: Sql, by: string, input: unknown, code: string | null = null): Promise<void> {
	const f = parse(factInput, input);
	await transaction(sql, (tx) => writeFact(tx, by, f, code));
}

async function writeFact(sql: Db, by: string, f: z.output<typeof factInput>, code: string | null): Promise<void> {
	const number = f.kind === 'number';
	const faults: Fault[] = [];
	if (number && f.low && f.high && less(f.high, f.low))
		faults.push({
			message: `The lower limit ${f.low} is above the upper limit ${f.high}. Turn them round.`,
			at: 'low'
		});
	if (f.kind === 'choice' && new Set(f.choices.map((c) => c.toLowerCase())).size < Math.max(f.choices.length, 2))
		faults.push({ message: 'A choice needs at least two different values.', at: 'choices' });
	const [was] = code ? await listFacts(sql, [code]) : [];
	if (code && !was) throw new Problem(`There is no field ${code}. Reload the page.`, 404);
	if (was?.used && (was.kind !== f.kind || (was.unit ?? '') !== (number ? (f.unit ?? '') : '')))
		faults.push({
			message: `${was.name} is recorded already, as ${was.kind}${was.unit ? ` in ${was.unit}` : ''}: its kind and unit stay. Define another fact.`,
			at: 'kind'
		});
	const gone = was?.used ? was.choices.filter((c) => !f.choices.includes(c)) : [];
	if (gone.length && f.kind === 'choice')
		faults.push({
			message: `${gone.join(', ')} may be recorded already: a choice that is in use stays. Put it back.`,
			at: 'choices'
		});
	const [other] = await sql<
		{ code: string }[]
	>`SELECT code FROM fact WHERE (code = ${f.code} OR lower(name) = lower(${f.name})) AND code IS DISTINCT FROM ${code}`;
	if (other)
		faults.push({ message: `The field ${other.code} has this code or name already. Take another.`, at: 'code' });
	if (code && f.code !== code)
		faults.push({ message: 'The code of a field stays: its values are kept under it.', at: 'code' });
	if (faults.length) throw new Problem(faults);
	const row = {
		name: f.name,
		kind: f.kind,
		unit: number ? (f.unit ?? null) : null,
		decimals: number ? f.decimals : 0,
		low: number ? (f.low ?? null) : null,
		high: number ? (f.high ?? null) : null,
		choices: f.kind === 'choice' ? f.choices : [],
		outside: f.outside,
		per: f.per
	};
	if (was) await sql`UPDATE fact SET ${sql(row)} WHERE code = ${code}`;
	else await sql`INSERT INTO fact ${sql({ ...row, code: f.code, created_by: by })}`;
	await keepHistory(sql, by, 'fact', f.code, was ? settingsOf(was) : null, row);
}

/** What of a fact keeps its history. */
const settingsOf = ({ name, kind, unit, decimals, low, high, choices, outside, per }: FactRow) => ({
	name,
	kind,
	unit,
	decimals,
	low,
	high,
	choices,
	outside,
	per
});
