import { grouped } from '../../core/quantity/sign.ts';
import { z } from 'zod';
import { transaction, type Db, type Sql } from '../database/connect.ts';
import { Problem } from '../../core/problem/problem.ts';
import {
	CHECK_METHODS,
	capacity,
	faultsOf,
	inWords,
	readBack,
	render,
	scope,
	type Block,
	type Context
} from '../../core/numbering/pattern.ts';
import { line } from '../../core/text/input.ts';
import { keepHistory } from '../history/history.ts';
import { parse } from '../parse.ts';

const digits = (most: number) => z.coerce.number().int().min(1).max(most);
/** One block of a pattern, as parsed. */
export const blockInput = z.discriminatedUnion('kind', [
	z.strictObject({ kind: z.literal('text'), text: line(200, 0) }),
	z.strictObject({ kind: z.literal('year'), digits: z.coerce.number().pipe(z.union([z.literal(2), z.literal(4)])) }),
	z.strictObject({ kind: z.enum(['month', 'day', 'week', 'year day', 'item', 'site', 'line']) }),
	z.strictObject({
		kind: z.literal('sequence'),
		digits: digits(12),
		reset: z.enum(['never', 'year', 'month', 'week', 'day'])
	}),
	z.strictObject({ kind: z.literal('check'), method: z.enum(CHECK_METHODS) })
]);
const blocksInput = z.array(blockInput).min(1, 'Add the first block.').max(20);
/** A pattern, as parsed. */
export const patternInput = z.strictObject({
	code: z
		.string()
		.trim()
		.regex(/^[A-Za-z0-9._-]{1,30}$/, 'A pattern’s code is 1 to 30 letters, digits, dots or dashes.'),
	name: line(100, 1, 'Type the name.'),
	blocks: blocksInput,
	/** the first sequence value to give, where the firm has used lower ones already */
	start: z.coerce.number().int().min(1).max(1e12).optional()
});
/** The same before what was left out is filled in. */
export type PatternInput = z.input<typeof patternInput>;

/** A pattern as the list shows it. */
export interface PatternRow {
	id: string;
	code: string;
	name: string;
	blocks: Block[];
	drawn: number;
	items: string[];
}
/** Patterns, with how many numbers were drawn and which items take theirs from each. */
export const listPatterns = (sql: Db, code: string | null = null) => sql<PatternRow[]>`
	SELECT p.id, p.code, p.name, p.blocks, (SELECT count(*)::int FROM drawn_number d WHERE d.pattern_id = p.id) AS drawn,
		ARRAY(SELECT i.code FROM item i WHERE p.id IN (i.lot_pattern_id, i.serial_pattern_id) ORDER BY i.code) AS items
	FROM number_pattern p ${code ? sql`WHERE p.code = ${code}` : sql``} ORDER BY p.code`;

/**
 * Makes a pattern, or changes one that nothing was drawn from yet.
 * @throws Problem naming what is wrong with its blocks
 */
export async function savePattern(sql: Sql, by: string, input: unknown, old: string | null = null): Promise<void> {
	const p = parse(patternInput, input);
	const faults = faultsOf(p.blocks);
	if (faults.length) throw new Problem(faults.map((message) => ({ message, at: 'blocks' })));
	await transaction(sql, async (tx) => {
		let id: string;
		let was: { name: string; blocks: Block[] } | null = null;
		if (old) {
			const [there] = await listPatterns(tx, old);
			if (!there) throw new Problem(`There is no pattern ${old}.`, 404);
			if (there.drawn)
				throw new Problem([
					{
						message: `${grouped(there.drawn)} numbers were drawn from ${old}: changed, they could not be read back. Make a new pattern and give it to the items.`,
						at: 'blocks'
					}
				]);
			id = there.id;
			was = { name: there.name, blocks: there.blocks };
			await tx`UPDATE number_pattern SET name = ${p.name}, blocks = ${JSON.stringify(p.blocks)}::text::jsonb WHERE id = ${id}`;
		} else {
			const [made] = await tx<{ id: string }[]>`INSERT INTO number_pattern (code, name, blocks, created_by)
				VALUES (${p.code}, ${p.name}, ${JSON.stringify(p.blocks)}::text::jsonb, ${by}) ON CONFLICT DO NOTHING RETURNING id`;
			if (!made)
				throw new Problem([{ message: `There is a pattern ${p.code} already. Choose another code.`, at: 'code' }]);
			id = made.id;
		}
		await keepHistory(tx, by, 'pattern', p.code, was, { name: p.name, blocks: p.blocks });
		if (p.start && p.start > 1)
			await tx`INSERT INTO number_counter (pattern_id, scope, last) VALUES (${id}, '', ${p.start - 1})
				ON CONFLICT (pattern_id, scope) DO UPDATE SET last = excluded.last`;
	});
}

/** What a pattern would give next. */
export interface Preview {
	/** the next three numbers, as they would be drawn now */
	next: string[];
	/** how many one counter holds, and the most that any counter of it has given */
	room: number;
	busiest: number;
	/** numbers that exist already and would be passed over */
	clash: string[];
	faults: string[];
}
/** What a pattern would give, drawn for an item from now on. Draws nothing. */
export async function preview(
	sql: Db,
	blocks: Block[],
	context: Context,
	id: string | null = null,
	start = 1
): Promise<Preview> {
	const faults = faultsOf(blocks);
	if (faults.length) return { next: [], room: 0, busiest: 0, clash: [], faults };
	const [{ last, busiest }] = await sql<{ last: string | null; busiest: number }[]>`
		SELECT (SELECT last FROM number_counter WHERE pattern_id = ${id} AND scope = ${scope(blocks, context)}) AS last,
			coalesce((SELECT max(n) FROM (SELECT count(*)::int AS n FROM drawn_number WHERE pattern_id = ${id} GROUP BY scope) c), 0) AS busiest`;
	const from = Math.max(Number(last ?? 0) + 1, start);
	const next: string[] = [];
	try {
		for (let i = 0; i < 3; i++) next.push(render(blocks, context, from + i));
	} catch (e) {
		faults.push((e as Error).message);
	}
	const clash = await sql<{ number: string }[]>`SELECT DISTINCT number FROM mark WHERE number = ANY(${next})`;
	return { next, room: capacity(blocks), busiest, clash: clash.map((c) => c.number), faults };
}

/** What a lot's or serial's own number says by its item's pattern; null without one, or when it does not fit. */
export async function numberSays(sql: Db, mark: string): Promise<string | null> {
	const [row] = await sql<{ number: string; blocks: Block[] | null }[]>`
		SELECT k.number, p.blocks FROM mark k JOIN item i ON i.id = k.item_id
		LEFT JOIN number_pattern p ON p.id = CASE k.kind WHEN 'serial' THEN i.serial_pattern_id ELSE i.lot_pattern_id END WHERE k.id = ${mark}`;
	if (!row?.blocks) return null;
	const read = readBack(row.blocks, row.number);
	return 'problem' in read ? null : inWords(read);
}
