import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { pool } from '$lib/server/database/pool';
import { blockInput, preview } from '$lib/server/numbering/patterns';
import { id, line } from '$lib/core/text/input';
import { firmZone } from '$lib/server/marks/zone';
import { contextOf } from '$lib/server/numbering/draw';
import { parse } from '$lib/server/parse';
import { allow, answer, body } from '$lib/server/request';
import type { RequestHandler } from './$types';

const input = z.strictObject({
	id: id.nullable(),
	blocks: z.array(blockInput).max(20),
	/** for which item, drawn where: blocks of the item, the site and the line say it */
	item: line(60, 0).default(''),
	place: line(45, 0).default(''),
	start: z.coerce.number().int().min(1).max(1e12).catch(1)
});

/** What a pattern would give if it were drawn from now. Draws nothing. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'write items');
		const given = parse(input, await body(event.request));
		const context = contextOf(given.item || 'ITEM', { place: given.place || null, zone: await firmZone(pool()) });
		return json(await preview(pool(), given.blocks, context, given.id, given.start));
	});
