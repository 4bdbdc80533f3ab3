import { z } from 'zod';
import { pool } from '$lib/server/database/pool';
import { closeInput, closeShort, openAgain } from '$lib/server/document/close';
import { parse } from '$lib/server/parse';
import { sheetAct } from '$lib/server/sheet/page';
import type { RequestHandler } from './$types';

const asked = closeInput.extend({ open: z.boolean().default(false) });

/** Closes an order before all of it is booked, or opens it again. */
export const POST: RequestHandler = (event) =>
	sheetAct(pool(), event, (who, { code }, body) => {
		const { open, ...given } = parse(asked, body);
		return (open ? openAgain : closeShort)(pool(), who, code, given);
	});
