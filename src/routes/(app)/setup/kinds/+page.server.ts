import { pool } from '$lib/server/database/pool';
import { page } from '$lib/server/request';
import { listFor } from '$lib/server/list/page';
import { kindList } from '$lib/server/setup/lists';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write items', async (who) => ({ list: await listFor(pool(), event, who, kindList) }));
