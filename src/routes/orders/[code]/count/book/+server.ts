import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { allow, answer, body } from '$lib/server/request';
import { bookCount, countState } from '$lib/server/stock/count';
import type { RequestHandler } from './$types';

/** Books what was counted. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'adjust stock');
		const booked = await bookCount(pool(), who, event.params.code, await body(event.request));
		const said = booked
			? `Booked: ${booked.movements} ${booked.movements === 1 ? 'difference' : 'differences'}.`
			: 'Everything that was counted is as expected. The count is closed.';
		return json({ said, state: await countState(pool(), event.params.code, event.url.searchParams.get('at')) });
	});
