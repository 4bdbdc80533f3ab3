import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { find } from '$lib/server/register/find';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** What a typed or scanned text stands for. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		return json(await find(pool(), event.url.searchParams.get('q') ?? ''));
	});
