import { Problem } from '$lib/core/problem/problem';
import { readView, type ListRow, type ListShape, type ListView } from '$lib/core/list/list';
import { grouped } from '$lib/core/quantity/sign';
import { pool } from '$lib/server/database/pool';
import { csvOf, xlsxOf } from '$lib/server/list/export';
import { headNow } from '$lib/server/ledger/seal';
import { MOST_PRINTED } from '$lib/server/list/paper';
import type { ListSource } from '$lib/server/list/source';
import { inThread } from '$lib/server/work/pool';
import { firmToday } from '$lib/server/list/page';
import { listAll, listPage } from '$lib/server/list/read';
import { lists } from '$lib/server/lists';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

const TYPES = {
	csv: 'text/csv; charset=utf-8',
	xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
	pdf: 'application/pdf'
};
const isFormat = (name: string): name is keyof typeof TYPES => Object.hasOwn(TYPES, name);

/** Everything that fits what an address asks of a list, in the columns that the person sees. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		const { list, format } = event.params;
		const source = lists.get(list);
		if (!source || !isFormat(format))
			throw new Problem(`There is no list ${list.slice(0, 40)} as ${format.slice(0, 10)}.`, 404);
		const who = allow(event, source.right);
		const today = await firmToday(pool());
		const view = { ...readView(source, event.url.searchParams), after: null, before: null };
		const { shape, chosen, count } = await listPage(pool(), source, { ...view, size: 1 }, { today, login: who.name });
		const rows = listAll(pool(), source, view, today);
		const file = {
			csv: () => csvOf(shape, chosen, rows),
			xlsx: () => xlsxOf(shape, chosen, rows, count),
			pdf: () => printed(source, view, { shape, chosen, count, by: who.name })
		};
		return new Response(await file[format](), {
			headers: {
				'content-type': TYPES[format],
				'content-disposition': `attachment; filename="${list}-${today}.${format}"`
			}
		});
	});

/** @throws Problem when it is longer than anybody would read on paper */
async function printed(
	source: ListSource,
	{ find, filters, ...view }: ListView,
	{ shape, chosen, count, by }: { shape: ListShape; chosen: string[] | null; count: number; by: string }
): Promise<Uint8Array<ArrayBuffer>> {
	if (count > MOST_PRINTED)
		throw new Problem(
			`${grouped(count)} rows are more than ${grouped(MOST_PRINTED)}, which is what goes on paper. Narrow the list, or export it as CSV.`,
			422
		);
	const today = await firmToday(pool());
	const rows: ListRow[] = [];
	for await (const some of listAll(pool(), source, { ...view, find, filters }, today)) rows.push(...some);
	const [[{ at, name }], head] = await Promise.all([
		pool()<
			{ at: string; name: string }[]
		>`SELECT shown_time(now()) AS at, coalesce((SELECT name FROM person WHERE login = ${by}), ${by}) AS name`,
		headNow(pool())
	]);
	return new Uint8Array(
		await inThread('list', {
			...{ shape, chosen, find, rows },
			filters: { ...source.unasked?.(find), ...filters },
			by: name,
			at,
			head
		})
	);
}
