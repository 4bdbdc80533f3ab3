import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { page } from '$lib/server/request';
import { lyingAt, placesWithStock } from '$lib/server/stock/putaway';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const places = await placesWithStock(pool());
		const asked = event.url.searchParams.get('place');
		const place = places.find((p) => p.code === asked) ?? places.find((p) => p.numbers > 0) ?? places[0] ?? null;
		return {
			places: [...places],
			place: place?.code ?? null,
			lying: place ? await lyingAt(pool(), place.code) : [],
			may: can(who.role, 'move stock')
		};
	});
