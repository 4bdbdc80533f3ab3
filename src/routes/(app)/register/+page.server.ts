import { pool } from '$lib/server/database/pool';
import { registerCount, registerPage } from '$lib/server/register/search';
import { filterOf } from '$lib/server/register/filter';
import { listItems } from '$lib/server/setup/items';
import { listPlaces } from '$lib/server/setup/places';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url }) => {
	const filter = filterOf(url.searchParams);
	const [rows, count, items, places] = await Promise.all([
		registerPage(pool(), filter),
		registerCount(pool(), filter),
		listItems(pool()),
		listPlaces(pool())
	]);
	return {
		filter,
		rows: [...rows],
		count,
		items: items.map(({ code, name }) => ({ code, name })),
		places: places.map((p) => p.code)
	};
};
