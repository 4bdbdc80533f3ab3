import { json } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { actOf } from '$lib/server/acts';
import { pool } from '$lib/server/database/pool';
import { allow, answer, body } from '$lib/server/request';
import { sheetAnswer } from '$lib/server/sheet/page';
import { findOrder, modeOf } from '$lib/server/sheet/state';
import type { RequestHandler } from './$types';

/** Does something with a document, answered with its sheet as it is then. Who may do it the act itself looks at. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'read');
		const act = actOf(event.params.act);
		if (!act) throw new Problem('There is nothing like this to do with a document. Reload the page.', 404);
		const order = await findOrder(pool(), event.params.code);
		const said = await act.run(pool(), who, order, await body(event.request), modeOf(event.url));
		return json({ ...said, state: await sheetAnswer(pool(), event, order.code) });
	});
