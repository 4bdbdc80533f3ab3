import { json } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { drawRows } from '$lib/server/numbering/draw';
import { getOrder } from '$lib/server/orders/orders';
import { modeOf, sheetState, verbOf } from '$lib/server/orders/sheet';
import { allow, answer, body } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** Draws the next numbers for a line and puts them into its sheet. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const order = await getOrder(pool(), event.params.code);
		if (!order) throw new Problem(`There is no order ${event.params.code}. Look it up in the list.`, 404);
		const who = allow(event, verbOf[order.kind]);
		if (order.closedAt) throw new Problem(`${order.code} is complete since ${order.closedAt}. Open another order for more.`, 409); // prettier-ignore
		const added = await drawRows(pool(), who.name, order, await body(event.request));
		return json({ added, state: await sheetState(pool(), order.code, modeOf(event.url)) });
	});
