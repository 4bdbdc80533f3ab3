import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { addByproduct } from '$lib/server/production/beside';
import { allow, answer, body } from '$lib/server/request';
import { sheetAnswer } from '$lib/server/sheet/page';
import type { RequestHandler } from './$types';

/** Adds something that comes out of a batch beside what it is made for; gives its sheet back. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'book production');
		await addByproduct(pool(), event.params.code, await body(event.request));
		return json({ state: await sheetAnswer(pool(), event, event.params.code) });
	});
