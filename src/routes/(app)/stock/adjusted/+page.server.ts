import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { listFor } from '$lib/server/list/page';
import { page } from '$lib/server/request';
import { adjustedList } from '$lib/server/stock/adjusted';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => ({
		may: can(who.role, 'adjust stock'),
		list: await listFor(pool(), event, who, adjustedList)
	}));
