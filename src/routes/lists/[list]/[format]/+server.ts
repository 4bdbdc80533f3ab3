import { Problem } from '$lib/core/problem/problem';
import { readView } from '$lib/core/list/list';
import { pool } from '$lib/server/database/pool';
import { csvOf, xlsxOf } from '$lib/server/list/export';
import { firmToday } from '$lib/server/list/page';
import { listAll, listPage } from '$lib/server/list/read';
import { lists } from '$lib/server/lists';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

const TYPES = {
	csv: 'text/csv; charset=utf-8',
	xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'
};

/** Everything that fits what an address asks of a list, in the columns that the person sees. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		const { list, format } = event.params;
		const source = lists.get(list);
		if (!source || (format !== 'csv' && format !== 'xlsx'))
			throw new Problem(`There is no list ${list.slice(0, 40)} as ${format.slice(0, 10)}.`, 404);
		const who = allow(event, source.right);
		const today = await firmToday(pool());
		const view = { ...readView(source, event.url.searchParams), after: null, before: null };
		const { shape, chosen, count } = await listPage(pool(), source, { ...view, size: 1 }, { today, login: who.name });
		const rows = listAll(pool(), source, view, today);
		return new Response(format === 'csv' ? csvOf(shape, chosen, rows) : xlsxOf(shape, chosen, rows, count), {
			headers: {
				'content-type': TYPES[format],
				'content-disposition': `attachment; filename="${list}-${today}.${format}"`
			}
		});
	});
