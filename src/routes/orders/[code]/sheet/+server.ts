import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { undoOrderEvent } from '$lib/server/orders/undo';
import { removeRows, saveRows } from '$lib/server/orders/drafts';
import { getOrder } from '$lib/server/orders/orders';
import { bookSheet, modeInput, modeOf, sheetState, verbOf } from '$lib/server/orders/sheet';
import { parse } from '$lib/server/people/people';
import { allow, answer, body } from '$lib/server/request';
import type { RequestHandler } from './$types';

const openOrder = async (code: string) => {
	const order = await getOrder(pool(), code);
	if (!order) throw new Problem(`There is no order ${code}. Look it up in the list.`, 404);
	return order;
};

export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		return json({ state: await sheetState(pool(), event.params.code, modeOf(event.url)) });
	});

export const PUT: RequestHandler = (event) =>
	answer(async () => {
		const order = await openOrder(event.params.code);
		const who = allow(event, verbOf[order.kind]);
		if (order.closedAt)
			throw new Problem(`${order.code} is complete since ${order.closedAt}. Open another order for more.`, 409);
		await saveRows(pool(), who.name, order, await body(event.request));
		if (event.url.searchParams.has('quiet')) return json({});
		return json({ state: await sheetState(pool(), order.code, modeOf(event.url)) });
	});

export const DELETE: RequestHandler = (event) =>
	answer(async () => {
		const order = await openOrder(event.params.code);
		allow(event, verbOf[order.kind]);
		await removeRows(pool(), order, await body(event.request));
		return json({ state: await sheetState(pool(), order.code, modeOf(event.url)) });
	});

const bookInput = z.object({
	key: z.uuid(),
	stamp: z.string().max(100),
	reason: z.string().max(1000).optional(),
	mode: modeInput
});
const undoInput = z.object({
	undo: z.string().regex(/^\d+$/),
	key: z.uuid(),
	reason: z.string().trim().min(1, 'Say why.').max(1000)
});

export const POST: RequestHandler = (event) =>
	answer(async () => {
		const given = await body(event.request);
		const order = await openOrder(event.params.code);
		let said: string;
		if (given && typeof given === 'object' && 'undo' in given) {
			const input = parse(undoInput, given);
			const booked = await undoOrderEvent(pool(), allow(event, 'undo'), order, input);
			said = `Undone: event ${booked.id} takes event ${input.undo} back.`;
		} else {
			const input = parse(bookInput, given);
			const booked = await bookSheet(pool(), allow(event, verbOf[order.kind]), order.code, input);
			said = booked.again
				? `Booked before, as event ${booked.id}.`
				: `Booked as event ${booked.id}: ${booked.movements.toLocaleString('en')} movements.`;
		}
		return json({ said, state: await sheetState(pool(), order.code, modeOf(event.url)) });
	});
