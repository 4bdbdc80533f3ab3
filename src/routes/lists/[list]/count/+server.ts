import { json } from '@sveltejs/kit';
import { readView } from '$lib/core/list/list';
import { Problem } from '$lib/core/problem/problem';
import { readPool } from '$lib/server/database/pool';
import { firmToday } from '$lib/server/list/page';
import { countAll } from '$lib/server/list/read';
import { lists } from '$lib/server/lists';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** How many rows fit what an address asks of a list, every one counted: where its page says "more than". */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		const source = lists.get(event.params.list);
		if (!source) throw new Problem(`There is no list ${event.params.list.slice(0, 40)}.`, 404);
		allow(event, source.right);
		const view = readView(source, event.url.searchParams);
		return json({ count: await countAll(readPool(), source, view, await firmToday(readPool())) });
	});
