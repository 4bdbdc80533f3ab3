import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { listFor } from '$lib/server/list/page';
import { page } from '$lib/server/request';
import { stockList } from '$lib/server/stock/list';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => ({
		list: await listFor(pool(), event, who, stockList),
		mayMove: can(who.role, 'move stock'),
		mayIssue: can(who.role, 'issue to jobs')
	}));
