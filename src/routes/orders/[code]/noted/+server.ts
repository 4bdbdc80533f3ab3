import { pool } from '$lib/server/database/pool';
import { note } from '$lib/server/document/noted';
import { sheetAct } from '$lib/server/sheet/page';
import type { RequestHandler } from './$types';

/** Notes a payment or an invoice that a program of others made, or withdraws one. */
export const POST: RequestHandler = (event) =>
	sheetAct(pool(), event, (who, order, given) => note(pool(), who, order, given));
