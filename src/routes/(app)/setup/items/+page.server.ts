import { pool } from '$lib/server/database/pool';
import { allow, allowPage, attempt, fields } from '$lib/server/request';
import { createItem, listItems } from '$lib/server/setup/items';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'write items');
	return { items: [...(await listItems(pool()))] };
};

export const actions: Actions = {
	default: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			allow(event, 'write items');
			const { created } = await createItem(pool(), {
				...{
					code: typed.code ?? '',
					name: typed.name ?? '',
					unit: typed.unit ?? '',
					decimals: Number(typed.decimals || 0)
				},
				...{
					tracking: typed.carries as never,
					expiry: typed.expiry as never,
					shelfLife: typed.shelfLife?.trim() || null
				},
				runMode: typed.runMode as never
			});
			return {
				said: created
					? `${typed.code} is made. Open it for its parts list and rule.`
					: `${typed.code} is there already, just so.`
			};
		});
	}
};
