import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { getOrder } from '$lib/server/orders/orders';
import { takeScan, undoScan } from '$lib/server/orders/scan';
import { modeOf, sheetState, verbOf } from '$lib/server/orders/sheet';
import { parse } from '$lib/server/people/people';
import { allow, answer, body } from '$lib/server/request';
import type { RequestHandler } from './$types';

const undoInput = z.strictObject({ undo: z.uuid() });

/** A scan on a document: taken into its sheet or refused with a sentence, and logged either way. Or taken back. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const given = await body(event.request);
		const order = await getOrder(pool(), event.params.code);
		if (!order) throw new Problem(`There is no order ${event.params.code}. Look it up in the list.`, 404);
		const who = allow(event, verbOf[order.kind]);
		if (order.closedAt) throw new Problem(`${order.code} is complete since ${order.closedAt}. Open another order for more.`, 409); // prettier-ignore
		const scan =
			given && typeof given === 'object' && 'undo' in given
				? (await undoScan(pool(), who.name, order, parse(undoInput, given).undo), null)
				: await takeScan(pool(), who.name, order, given);
		return json({ scan, state: await sheetState(pool(), order.code, modeOf(event.url)) });
	});
