import { json } from '@sveltejs/kit';
import { documentKind } from '$lib/core/document/kinds';
import { pool } from '$lib/server/database/pool';
import { setTodo } from '$lib/server/document/todo';
import { allow, answer, body } from '$lib/server/request';
import { findOrder, modeOf, sheetState } from '$lib/server/sheet/state';
import type { RequestHandler } from './$types';

/** Adds something that stays to be done, or ticks it off. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const order = await findOrder(pool(), event.params.code);
		const who = allow(event, documentKind(order.kind).right);
		await setTodo(pool(), who, order, await body(event.request));
		return json({ state: await sheetState(pool(), order.code, modeOf(event.url)) });
	});
