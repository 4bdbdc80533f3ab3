import { pool } from '$lib/server/database/pool';
import { setWay } from '$lib/server/document/way';
import { sheetAct } from '$lib/server/sheet/page';
import type { RequestHandler } from './$types';

/** Says how a document is sent. */
export const POST: RequestHandler = (event) =>
	sheetAct(pool(), event, (who, order, given) => setWay(pool(), who, order, given));
