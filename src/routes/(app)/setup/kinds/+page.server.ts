import { pool } from '$lib/server/database/pool';
import { page } from '$lib/server/request';
import { listKinds } from '$lib/server/setup/kinds';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write items', async () => ({ kinds: [...(await listKinds(pool()))] }));
