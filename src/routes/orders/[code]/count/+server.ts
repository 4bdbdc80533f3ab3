import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { allow, answer, body } from '$lib/server/request';
import { countState, takeCount } from '$lib/server/stock/count';
import type { RequestHandler } from './$types';

/** A count as it stands, at a place. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		return json({ state: await countState(pool(), event.params.code, event.url.searchParams.get('at')) });
	});

/** Takes what was counted. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'count stock');
		const taken = await takeCount(pool(), who.name, event.params.code, await body(event.request));
		const at = taken.place ?? event.url.searchParams.get('at');
		return json({ ...taken, state: await countState(pool(), event.params.code, at) });
	});
