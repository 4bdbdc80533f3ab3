import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { giveBack } from '$lib/server/production/giveback';
import { allow, answer, body } from '$lib/server/request';
import { sheetAnswer } from '$lib/server/sheet/page';
import type { RequestHandler } from './$types';

/** Gives back what was put into a batch and not used; gives its sheet back. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'book production');
		const { movements: n } = await giveBack(pool(), who, event.params.code, await body(event.request));
		const state = await sheetAnswer(pool(), event, event.params.code);
		return json({ state, said: `Given back from ${state.state.code}: ${n} ${n === 1 ? 'quantity' : 'quantities'}.` });
	});
