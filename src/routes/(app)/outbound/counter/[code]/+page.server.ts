import { pool } from '$lib/server/database/pool';
import { listPartners } from '$lib/server/setup/places';
import { documentPage } from '$lib/server/sheet/page';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => ({
	...(await documentPage(pool(), event, event.params.code, 'counter')),
	customers: (await listPartners(pool())).filter((p) => p.kind !== 'supplier').map(({ code, name }) => ({ code, name }))
});
