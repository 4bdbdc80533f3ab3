import { z } from 'zod';
import { pool } from '../database/pool.ts';
import { firmToday } from '../list/page.ts';
import { listQuery, viewOf } from '../list/query.ts';
import { listRows } from '../list/read.ts';
import { lists } from '../lists.ts';
import { parse } from '../parse.ts';
import type { Operation } from './call.ts';
import { refusals } from './refusals.ts';

const some = z.string().nullable();
/** Every list of the screens, by the columns that it has there. */
export const listCalls: readonly Operation[] = [...lists.values()].map((source): Operation => {
	const query = listQuery(source);
	const columns = source.columns.filter((c) => !c.filterOnly);
	const row = z.object({
		id: z.string(),
		...Object.fromEntries(columns.map((c) => [c.key, some.describe(`${c.label}.`)]))
	});
	return {
		method: 'GET',
		path: `/api/v1/lists/${source.key}`,
		summary: `The list “${source.title}”, by pages, with the filters and the order of its screen.`,
		right: source.right,
		query,
		answers: {
			200: {
				says: 'The rows that fit, each value as text, and where the next page begins: send it as after. Null after the last.',
				schema: z.object({ rows: z.array(row), next: some })
			}
		},
		refusals: {
			401: refusals(source.right)[401],
			403: refusals(source.right)[403],
			422: 'There is no “colour” here. Remove it, or correct the name.'
		},
		run: async (call) => {
			const view = await viewOf(pool(), source, parse(query, call.query));
			const { rows, next } = await listRows(pool(), source, view, await firmToday(pool()));
			const shown = rows.map((r) =>
				Object.fromEntries(['id', ...columns.map((c) => c.key)].map((name) => [name, r[name] ?? null]))
			);
			return Response.json({ rows: shown, next });
		}
	};
});
