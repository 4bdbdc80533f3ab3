import { z } from 'zod';
import { bySpan, isPast, narrows, readView, sorts, type ListView } from '../../core/list/list.ts';
import { Problem } from '../../core/problem/problem.ts';
import { line } from '../../core/text/input.ts';
import type { Db } from '../database/connect.ts';
import type { ListSource, SourceColumn } from './source.ts';

/** The most rows of a list that a program is given at once. */
export const MOST_ROWS = 1000;
const count = (says: string) => z.coerce.number(says).int(says).min(1, says).max(MOST_ROWS, says);

/** How the value of a column is given. */
function valueOf(c: SourceColumn): z.ZodType {
	switch (c.kind) {
		case 'number':
			return z.string().regex(/^-?\d{1,15}(\.\d{1,9})?$/, 'Give a number, such as 12.5.');
		case 'day':
		case 'moment':
			return z.iso.date('Give a day, such as 2027-03-31.');
		case 'past':
			return z.string().refine(isPast, 'Give a day as 2027-03-31, or a moment as 2027-03-31 14:30.');
		default:
			return c.choices ? z.enum(c.choices.map((x) => x.value) as [string, ...string[]]) : line(100);
	}
}

/** What a program may ask of a list: the filters, the order and the text of its screen. What it does not know it refuses. */
export function listQuery(source: ListSource): z.ZodObject {
	const keys = source.columns.filter(sorts).map((c) => c.key);
	const filters = source.columns.filter(narrows).flatMap((c): [string, z.ZodType][] => {
		const value = valueOf(c);
		return bySpan(c)
			? [
					[`${c.key}.from`, value.optional().describe(`${c.label}, from.`)],
					[`${c.key}.to`, value.optional().describe(`${c.label}, up to.`)]
				]
			: [[c.key, value.optional().describe(`${c.label}${c.kind === 'text' ? ': a part of it' : ''}.`)]];
	});
	return z.strictObject({
		...(source.find ? { find: line(100).optional().describe(`${source.find}.`) } : {}),
		...Object.fromEntries(filters),
		sort: z
			.enum(keys.flatMap((key) => [key, `-${key}`]) as [string, ...string[]])
			.optional()
			.describe('A column; with - before it downwards.'),
		count: count(`Give count as a whole number from 1 to ${MOST_ROWS}.`).default(200).describe('How many at most.'),
		after: z.string().max(1000).optional().describe('What the page before gave as next.')
	});
}

/**
 * The view of a list that a parsed query asks.
 * @throws Problem 422 for a place in the list that is none, and for an item or place that there is not: an empty answer
 *   would pass for "none of it"
 */
export async function viewOf(sql: Db, source: ListSource, query: Record<string, unknown>): Promise<ListView> {
	const { count: size, ...asked } = query;
	const given = Object.entries(asked).filter((e): e is [string, string] => typeof e[1] === 'string');
	const view = { ...readView(source, new URLSearchParams(given)), size: Number(size) };
	if (asked.after && !view.after)
		throw new Problem([{ message: 'Give after as the page before said it in next.', at: 'after', code: 'form' }]);
	for (const c of source.columns) {
		const is = view.filters[c.key]?.is;
		if (is && c.ids && !(await c.ids(sql, is)).length)
			throw new Problem([{ message: `There is no ${c.key} ${is}. Check the code.`, at: c.key, code: 'unknown' }]);
	}
	return view;
}
