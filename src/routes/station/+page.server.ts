import { pool } from '$lib/server/database/pool';
import { openStations } from '$lib/server/production/station';
import { page } from '$lib/server/request';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'book production', async () => ({ stations: [...(await openStations(pool()))] }));
