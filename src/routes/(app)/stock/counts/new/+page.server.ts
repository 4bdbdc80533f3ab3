import { redirect } from '@sveltejs/kit';
import { documentPath } from '$lib/core/document/kinds';
import { pool } from '$lib/server/database/pool';
import { firmToday } from '$lib/server/list/page';
import { action, page, readJson } from '$lib/server/request';
import { itemNames } from '$lib/server/setup/items';
import { placeCodes } from '$lib/server/setup/places';
import { makeCount } from '$lib/server/stock/count';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'count stock', async () => {
		const [places, items, today] = await Promise.all([placeCodes(pool()), itemNames(pool()), firmToday(pool())]);
		return {
			today,
			places: places.map((p) => p.code),
			items: items.map(({ code, name }) => ({ code, name })),
			place: event.url.searchParams.get('place') ?? ''
		};
	});
export const actions: Actions = {
	default: async (event) => {
		const made = await action('count stock', async ({ who, typed }) => ({
			code: await makeCount(pool(), who, {
				place: typed.place ?? '',
				items: readJson(typed.items),
				notSince: typed.notSince ?? '',
				sample: typed.sample?.trim() || 0,
				dueOn: typed.dueOn || null,
				note: typed.note ?? ''
			})
		}))(event);
		if (!('code' in made)) return made;
		redirect(303, documentPath('count', made.code));
	}
};
