import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { allow, answer, body } from '$lib/server/request';
import { countState, restNotThere } from '$lib/server/stock/count';
import type { RequestHandler } from './$types';

/** What was not counted at a place is not there. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'count stock');
		const added = await restNotThere(pool(), who.name, event.params.code, await body(event.request));
		return json({ added, state: await countState(pool(), event.params.code, event.url.searchParams.get('at')) });
	});
