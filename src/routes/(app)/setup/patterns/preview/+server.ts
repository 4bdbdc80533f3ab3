import { json } from '@sveltejs/kit';
import { z } from 'zod';
import { pool } from '$lib/server/database/pool';
import { blockInput, preview } from '$lib/server/numbering/patterns';
import { contextOf } from '$lib/server/numbering/draw';
import { parse } from '$lib/server/people/people';
import { allow, answer, body } from '$lib/server/request';
import type { Block } from '$lib/core/numbering/pattern';
import type { RequestHandler } from './$types';

const input = z.strictObject({
	id: z.string().regex(/^\d+$/).nullable(),
	blocks: z.array(blockInput).max(20),
	/** for which item, drawn where: blocks of the item, the site and the line say it */
	item: z.string().max(60).default(''),
	place: z.string().max(45).default(''),
	start: z.coerce.number().int().min(1).max(1e12).catch(1)
});

/** What a pattern would give if it were drawn from now. Draws nothing. */
export const POST: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'write items');
		const given = parse(input, await body(event.request));
		const context = contextOf(given.item || 'ITEM', given.place || null);
		return json(await preview(pool(), given.blocks as Block[], context, given.id, given.start));
	});
