import { pool } from '$lib/server/database/pool';
import { floorNow } from '$lib/server/floor/report';
import { page } from '$lib/server/request';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async () => {
		event.depends('app:floor');
		return { operations: await floorNow(pool()) };
	});
