import type { ListPage, ListRow, ListView } from '../../core/list/list.ts';
import { Problem } from '../../core/problem/problem.ts';
import { grouped } from '../../core/quantity/sign.ts';
import type { Sql } from '../database/connect.ts';
import { headNow } from '../ledger/seal.ts';
import { inThread, type Running } from '../work/pool.ts';
import { listAll } from './read.ts';
import type { ListSource } from './source.ts';

/** The most rows that are printed: a paper of some fifty pages. */
const MOST_PRINTED = 2_000;

/**
 * Everything that fits a view, on paper.
 * @param page the list as it is shown
 * @param how how it is stopped, and who is told what is being done
 * @throws Problem 422 when it is longer than anybody would read on paper
 */
export async function printList(
	sql: Sql,
	source: ListSource,
	view: ListView,
	{ shape, chosen, count, more, standing }: Pick<ListPage, 'shape' | 'chosen' | 'count' | 'more' | 'standing'>,
	{ today, login }: { today: string; login: string },
	how: Running
): Promise<Uint8Array<ArrayBuffer>> {
	if (count > MOST_PRINTED)
		throw new Problem(
			`${more ? `More than ${grouped(count)}` : grouped(count)} rows are more than ${grouped(MOST_PRINTED)}, which is what goes on paper. Narrow the list, or export it as CSV.`,
			422
		);
	const rows: ListRow[] = [];
	for await (const some of listAll(sql, source, view, today)) {
		rows.push(...some);
		how.said?.(`Reading row ${grouped(rows.length)} of ${grouped(count)}`);
	}
	const [[{ at, by }], head] = await Promise.all([
		sql<
			{ at: string; by: string }[]
		>`SELECT shown_time(now()) AS at, coalesce((SELECT name FROM person WHERE login = ${login}), ${login}) AS by`,
		headNow(sql)
	]);
	const filters = { ...standing, ...view.filters };
	how.said?.(`Laying out ${grouped(rows.length)} rows`);
	return new Uint8Array(await inThread('list', { shape, chosen, find: view.find, filters, rows, by, at, head }, how));
}
