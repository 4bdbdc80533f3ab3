import { z } from 'zod';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { chooseColumns } from '$lib/server/list/read';
import { lists } from '$lib/server/lists';
import { parse } from '$lib/server/parse';
import { allow, answer, body } from '$lib/server/request';
import type { RequestHandler } from './$types';

const input = z.strictObject({ columns: z.array(z.string().max(40)).max(60) });

/** Keeps which columns of a list a person wants to see; none brings back what shows unasked. */
export const PUT: RequestHandler = (event) =>
	answer(async () => {
		const source = lists.get(event.params.list);
		if (!source) throw new Problem(`There is no list ${event.params.list.slice(0, 40)}.`, 404);
		const who = allow(event, source.right);
		await chooseColumns(pool(), who.name, source, parse(input, await body(event.request)).columns);
		return new Response(null, { status: 204 });
	});
