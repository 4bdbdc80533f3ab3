import { pool } from '$lib/server/database/pool';
import { setAgreed } from '$lib/server/outbound/sale';
import { sheetAct } from '$lib/server/sheet/page';
import type { RequestHandler } from './$types';

/** Says whom a sale is for, or what is agreed of a line. */
export const POST: RequestHandler = (event) =>
	sheetAct(pool(), event, (who, order, given) => setAgreed(pool(), who, order, given));
