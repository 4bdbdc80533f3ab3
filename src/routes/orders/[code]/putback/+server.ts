import { json } from '@sveltejs/kit';
import { documentKind } from '$lib/core/document/kinds';
import { group } from '$lib/core/group/group';
import { pool } from '$lib/server/database/pool';
import { putBack } from '$lib/server/outbound/putback';
import { allow, answer, body } from '$lib/server/request';
import { findOrder, modeOf, sheetState } from '$lib/server/sheet/state';
import type { RequestHandler } from './$types';

/** Puts what was picked and waits back to its bins; gives the sheet back, and says where each goes. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const given = await body(event.request);
		const order = await findOrder(pool(), event.params.code);
		const who = allow(event, documentKind(order.kind).right);
		const { back } = await putBack(pool(), who, order.code, given);
		const state = await sheetState(pool(), order.code, modeOf(event.url));
		const where = [...group(back, (b) => b.to)].map(
			([to, list]) =>
				`${to}: ${[...new Set(list.map((b) => b.number))].slice(0, 20).join(', ')}${list.length > 20 ? ' …' : ''}`
		);
		return json({ state, said: `Put back to ${where.join('; ')}.` });
	});
