import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { pool } from '$lib/server/database/pool';
import { closeInput, closeShort, openAgain } from '$lib/server/document/close';
import { parse } from '$lib/server/parse';
import { allow, answer, body } from '$lib/server/request';
import { modeOf, sheetState } from '$lib/server/sheet/state';
import type { RequestHandler } from './$types';

const asked = closeInput.extend({ open: z.boolean().default(false) });

/** Closes an order before all of it is booked, or opens it again; gives its sheet back. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		const who = allow(event, 'read');
		const { open, ...given } = parse(asked, await body(event.request));
		await (open ? openAgain : closeShort)(pool(), who, event.params.code, given);
		return json({ state: await sheetState(pool(), event.params.code, modeOf(event.url)) });
	});
