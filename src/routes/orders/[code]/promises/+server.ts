import { z } from 'zod';
import { pool } from '$lib/server/database/pool';
import { makePromises, releasePromises } from '$lib/server/document/promises';
import { parse } from '$lib/server/parse';
import { sheetAct } from '$lib/server/sheet/page';
import type { RequestHandler } from './$types';

/** Promises what is suggested or chosen to a line. */
export const POST: RequestHandler = (event) =>
	sheetAct(pool(), event, async (who, order, given) => void (await makePromises(pool(), who, order, given)));

/** Gives promises of its lines up. */
export const DELETE: RequestHandler = (event) =>
	sheetAct(pool(), event, async (who, _order, given) => {
		await releasePromises(pool(), who, parse(z.array(z.string()), given));
	});
