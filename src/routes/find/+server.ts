import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { find } from '$lib/server/register/find';
import { allow, answer } from '$lib/server/request';

export const GET = (event) =>
	answer(async () => {
		allow(event, 'read');
		return json(await find(pool(), event.url.searchParams.get('q') ?? ''));
	});
