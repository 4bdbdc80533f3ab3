import { grouped } from '$lib/core/quantity/sign';
import { json } from '@sveltejs/kit';
import { documentKind } from '$lib/core/document/kinds';
import { pool } from '$lib/server/database/pool';
import { enterFromNotice, parseNotice, takeNotice } from '$lib/server/inbound/notice';
import { allow, answer, body } from '$lib/server/request';
import { sheetAnswer } from '$lib/server/sheet/page';
import { findOpenOrder } from '$lib/server/sheet/state';
import type { RequestHandler } from './$types';

/** Takes a supplier's advance notice for a delivery, or puts what it announced into the sheet. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const given = await body(event.request);
		const order = await findOpenOrder(pool(), event.params.code, 'purchase');
		const who = allow(event, documentKind(order.kind).right);
		const input = parseNotice(given);
		let said: string;
		let added: string[] = [];
		if ('enter' in input) {
			const entered = await enterFromNotice(pool(), who.name, order, input.enter);
			added = entered.ids;
			said = entered.numbers
				? `${grouped(entered.numbers)} announced numbers entered.`
				: 'All that was announced is in the sheet already.';
		} else said = await takeNotice(pool(), who.name, order, input);
		return json({ said, added, state: await sheetAnswer(pool(), event, order.code) });
	});
