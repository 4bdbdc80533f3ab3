import { json } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { touchesOf } from '$lib/server/register/touches';
import { allow, answer, idOf } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** What a correction touches, as far as it is typed. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'correct numbers');
		const id = idOf(event.params.id);
		const { searchParams } = event.url;
		const [field, value] = ['field', 'value'].map((name) => (searchParams.get(name) ?? '').slice(0, 300));
		const touches = id && (await touchesOf(pool(), id, field, value, new Date()));
		if (!touches) throw new Problem('There is no such lot or serial.', 404);
		return json(touches);
	});
