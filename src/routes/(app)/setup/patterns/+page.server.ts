import { pool } from '$lib/server/database/pool';
import { listFor } from '$lib/server/list/page';
import { patternList } from '$lib/server/numbering/list';
import { page } from '$lib/server/request';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write items', async (who) => ({ list: await listFor(pool(), event, who, patternList) }));
