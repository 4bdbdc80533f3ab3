import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { movedWords } from '$lib/server/ledger/moved';
import { allow, answer, body } from '$lib/server/request';
import { putAway } from '$lib/server/stock/putaway';
import type { RequestHandler } from './$types';

/** Puts away: one event for all that is given. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'move stock');
		const booked = await putAway(pool(), who, await body(event.request));
		return json({ said: `Moved: ${await movedWords(pool(), booked.id)}.` });
	});
