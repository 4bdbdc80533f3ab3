import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { allow, answer, body } from '$lib/server/request';
import { countState, countTotal } from '$lib/server/stock/count';
import type { RequestHandler } from './$types';

/** Proposes how a total is laid on the lots of an item, or lays it. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'count stock');
		const laid = await countTotal(pool(), who.name, event.params.code, await body(event.request));
		return json({ laid, state: await countState(pool(), event.params.code, event.url.searchParams.get('at')) });
	});
