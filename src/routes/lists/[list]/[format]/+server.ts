import { Problem } from '$lib/core/problem/problem';
import { readView } from '$lib/core/list/list';
import { pool } from '$lib/server/database/pool';
import { csvOf, xlsxOf } from '$lib/server/list/export';
import { firmToday } from '$lib/server/list/page';
import { printList } from '$lib/server/list/print';
import { countAll, listAll, listPage } from '$lib/server/list/read';
import { lists } from '$lib/server/lists';
import { allow, answer } from '$lib/server/request';
import { goOnFor } from '$lib/server/work/going';
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
		const asker = { today, login: who.name };
		const page = await listPage(pool(), source, { ...view, size: 1 }, asker);
		const rows = listAll(pool(), source, view, today);
		const file = {
			csv: () => csvOf(page.shape, page.chosen, rows),
			xlsx: async () =>
				xlsxOf(page.shape, page.chosen, rows, page.more ? await countAll(pool(), source, view, today) : page.count),
			pdf: () => goOnFor(event, who.name, (how) => printList(pool(), source, view, page, asker, how))
		};
		return new Response(await file[format](), {
			headers: {
				'content-type': TYPES[format],
				'content-disposition': `attachment; filename="${list}-${today}.${format}"`
			}
		});
	});
