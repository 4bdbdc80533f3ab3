import { json } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import type { Tx } from '$lib/server/database/connect';
import { pool } from '$lib/server/database/pool';
import { lockSheet } from '$lib/server/orders/drafts';
import { enterAnnounced, parseNotice, takeNotice } from '$lib/server/inbound/notice';
import { getOrder } from '$lib/server/orders/orders';
import { sheetState, verbOf } from '$lib/server/orders/sheet';
import { allow, answer, body } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** Takes a supplier's advance notice for a delivery, or puts what it announced into the sheet. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const given = await body(event.request);
		const order = await getOrder(pool(), event.params.code);
		if (order?.kind !== 'purchase')
			throw new Problem(`There is no delivery ${event.params.code}. Look it up in the list.`, 404);
		const who = allow(event, verbOf[order.kind]);
		if (order.closedAt) throw new Problem(`${order.code} is complete since ${order.closedAt}. Open another order for more.`, 409); // prettier-ignore
		const input = parseNotice(given);
		let said: string;
		let added: string[] = [];
		if ('enter' in input) {
			const { enter } = input;
			const entered = await pool().begin(async (raw) => {
				const tx = raw as unknown as Tx;
				await lockSheet(tx, order.id);
				return enterAnnounced(tx, who.name, order, enter);
			});
			added = entered.ids;
			said = entered.numbers ? `${entered.numbers.toLocaleString('en')} announced numbers entered.` : 'All that was announced is in the sheet already.'; // prettier-ignore
		} else said = await takeNotice(pool(), who.name, order, input);
		return json({ said, added, state: await sheetState(pool(), order.code) });
	});
