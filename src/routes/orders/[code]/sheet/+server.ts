import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { documentKind } from '$lib/core/document/kinds';
import { id, key, text } from '$lib/core/text/input';
import { pool } from '$lib/server/database/pool';
import { movedWords } from '$lib/server/ledger/moved';
import { undoEvent } from '$lib/server/document/undo';
import { parse } from '$lib/server/parse';
import { actor, allow, answer, body } from '$lib/server/request';
import { removeRows, saveRows } from '$lib/server/sheet/drafts';
import { sheetAnswer } from '$lib/server/sheet/page';
import { sheetPart } from '$lib/server/sheet/part';
import { bookInput, bookSheet, findOpenOrder, findOrder } from '$lib/server/sheet/state';
import type { Order } from '$lib/server/document/orders';
import type { RequestEvent, RequestHandler } from './$types';

const state = async (event: RequestEvent, order?: Order) => ({
	state: await sheetAnswer(pool(), event, event.params.code, { order })
});

export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		return json(await state(event));
	});

/** Does the page want only what its change was about, because its sheet is long? */
const inPart = ({ url }: RequestEvent) => url.searchParams.has('part');

/** Saves rows as they are typed. */
export const PUT: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const order = await findOpenOrder(pool(), event.params.code);
		const who = allow(event, documentKind(order.kind).right);
		const ids = await saveRows(pool(), who.name, order, await body(event.request));
		if (event.url.searchParams.has('quiet')) return json({});
		return json(inPart(event) ? { part: await sheetPart(pool(), order, ids) } : await state(event, order));
	});

/** Takes rows out. */
export const DELETE: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const order = await findOrder(pool(), event.params.code);
		allow(event, documentKind(order.kind).right);
		const ids = await removeRows(pool(), order, await body(event.request));
		return json(inPart(event) ? { part: await sheetPart(pool(), order, [], ids) } : await state(event, order));
	});

const undoInput = z.strictObject({ undo: id, key, reason: text(1000, 1, 'Say why.') });

/** Books what the sheet shows, or takes an event of the order back. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const given = await body(event.request);
		const { code } = event.params;
		let said: string;
		if (given && typeof given === 'object' && 'undo' in given) {
			const input = parse(undoInput, given);
			await undoEvent(pool(), allow(event, 'undo'), input, await findOrder(pool(), code));
			said = 'Undone: what it booked is taken back.';
		} else {
			const who = actor(event);
			const booked = await bookSheet(pool(), who, code, parse(bookInput, given));
			said = booked.again
				? `Booked before on ${code}; nothing is booked twice.`
				: `Booked on ${code}: ${(await movedWords(pool(), booked.id)) || 'nothing was moved'}.`;
		}
		return json({ said, ...(await state(event)) });
	});
