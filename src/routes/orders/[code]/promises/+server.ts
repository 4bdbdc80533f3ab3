import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { pool } from '$lib/server/database/pool';
import { parse } from '$lib/server/parse';
import { allow, answer, body } from '$lib/server/request';
import { findOrder, modeOf, sheetState } from '$lib/server/sheet/state';
import { makePromises, releasePromises } from '$lib/server/document/promises';
import type { RequestHandler } from './$types';

/** Promises what is suggested or chosen to a line; gives its sheet back. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'read');
		const order = await findOrder(pool(), event.params.code);
		await makePromises(pool(), who, order, await body(event.request));
		return json({ state: await sheetState(pool(), order.code, modeOf(event.url)) });
	});

/** Gives promises of its lines up; gives its sheet back. */
export const DELETE: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'read');
		await releasePromises(pool(), who, parse(z.array(z.string()), await body(event.request)));
		return json({ state: await sheetState(pool(), event.params.code, modeOf(event.url)) });
	});
