import { pool } from '$lib/server/database/pool';
import { operationsOf } from '$lib/server/floor/scan';
import { findStation } from '$lib/server/production/station';
import { page } from '$lib/server/request';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'book production', async () => {
		const { code, name, place, review } = await findStation(pool(), event.params.code);
		return { station: { code, name, place, review }, operations: await operationsOf(pool()) };
	});
