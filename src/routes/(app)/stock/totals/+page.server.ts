import { pool } from '$lib/server/database/pool';
import { listFor } from '$lib/server/list/page';
import { page } from '$lib/server/request';
import { totalList } from '$lib/server/stock/list';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => ({ list: await listFor(pool(), event, who, totalList) }));
