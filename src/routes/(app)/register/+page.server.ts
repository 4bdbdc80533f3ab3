import { dayIn } from '$lib/core/time/clock';
import { pool } from '$lib/server/database/pool';
import { firmZone } from '$lib/server/marks/zone';
import { registerCount, registerPage } from '$lib/server/register/search';
import { filterOf } from '$lib/server/register/filter';
import { page } from '$lib/server/request';
import { itemNames } from '$lib/server/setup/items';
import { placeCodes } from '$lib/server/setup/places';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async () => {
		const filter = { ...filterOf(event.url.searchParams), today: dayIn(await firmZone(pool()), new Date()) };
		const [rows, count, items, places] = await Promise.all([
			registerPage(pool(), filter),
			registerCount(pool(), filter),
			itemNames(pool()),
			placeCodes(pool())
		]);
		return {
			filter,
			rows: [...rows],
			count,
			items: items.map(({ code, name }) => ({ code, name })),
			places: places.map((p) => p.code)
		};
	});
