import { pool } from '$lib/server/database/pool';
import { can } from '$lib/core/people/can';
import { page } from '$lib/server/request';
import { itemNames } from '$lib/server/setup/items';
import { countState } from '$lib/server/stock/count';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => ({
		count: await countState(pool(), event.params.code, event.url.searchParams.get('at')),
		items: (await itemNames(pool())).filter((i) => i.tracking !== 'none').map(({ code, name }) => ({ code, name })),
		may: can(who.role, 'count stock'),
		mayBook: can(who.role, 'adjust stock'),
		mayUndo: can(who.role, 'undo')
	}));
