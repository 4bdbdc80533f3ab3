import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { setWay } from '$lib/server/document/way';
import { allow, answer, body } from '$lib/server/request';
import { findOrder, modeOf, sheetState } from '$lib/server/sheet/state';
import type { RequestHandler } from './$types';

/** Says how a document is sent, and gives its sheet back. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'read');
		const order = await findOrder(pool(), event.params.code);
		await setWay(pool(), who, order, await body(event.request));
		return json({ state: await sheetState(pool(), order.code, modeOf(event.url)) });
	});
