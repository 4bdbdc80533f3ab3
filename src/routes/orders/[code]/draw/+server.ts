import { json } from '@sveltejs/kit';
import { documentKind } from '$lib/core/document/kinds';
import { pool } from '$lib/server/database/pool';
import { allow, answer, body } from '$lib/server/request';
import { drawRows } from '$lib/server/sheet/draw';
import { sheetAnswer } from '$lib/server/sheet/page';
import { findOpenOrder } from '$lib/server/sheet/state';
import type { RequestHandler } from './$types';

/** Draws the next numbers for a line and puts them into its sheet. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const order = await findOpenOrder(pool(), event.params.code);
		const who = allow(event, documentKind(order.kind).right);
		const added = await drawRows(pool(), who.name, order, await body(event.request));
		return json({ added, state: await sheetAnswer(pool(), event, order.code) });
	});
