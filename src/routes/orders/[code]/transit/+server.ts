import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { allow, answer, body } from '$lib/server/request';
import { modeOf, sheetState } from '$lib/server/sheet/state';
import { endTransit } from '$lib/server/stock/transit';
import type { RequestHandler } from './$types';

/** Says what became of what is in transit and will not arrive; gives the sheet back. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'move stock');
		const { movements: n } = await endTransit(pool(), who, event.params.code, await body(event.request));
		const state = await sheetState(pool(), event.params.code, modeOf(event.url));
		return json({ state, said: `${n} ${n === 1 ? 'quantity is' : 'quantities are'} not in transit any more.` });
	});
