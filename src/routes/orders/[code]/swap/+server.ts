import { pool } from '$lib/server/database/pool';
import { swap } from '$lib/server/outbound/swap';
import { sheetAct } from '$lib/server/sheet/page';
import { modeOf } from '$lib/server/sheet/state';
import type { RequestHandler } from './$types';

/** Puts one number in the place of another on a line, before or after it has gone. */
export const POST: RequestHandler = (event) =>
	sheetAct(pool(), event, (who, order, given) => swap(pool(), who, order, given, modeOf(event.url)));
