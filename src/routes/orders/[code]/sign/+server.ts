import { pool } from '$lib/server/database/pool';
import { sign } from '$lib/server/outbound/signature';
import { sheetAct } from '$lib/server/sheet/page';
import type { RequestHandler } from './$types';

/** Keeps a signature: to the terms, or for what was handed over. */
export const POST: RequestHandler = (event) =>
	sheetAct(pool(), event, async (who, order, given) => {
		await sign(pool(), who, order, given);
		return 'Signed. It stands on its paper.';
	});
