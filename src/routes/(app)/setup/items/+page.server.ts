import { pool } from '$lib/server/database/pool';
import { listFor } from '$lib/server/list/page';
import { action, page } from '$lib/server/request';
import { createItem } from '$lib/server/setup/items';
import { itemList } from '$lib/server/setup/lists';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write items', async (who) => ({ list: await listFor(pool(), event, who, itemList) }));

export const actions: Actions = {
	default: action('write items', async ({ who, typed }) => {
		const { code, created } = await createItem(pool(), who.name, {
			code: typed.code ?? '',
			name: typed.name ?? '',
			unit: typed.unit ?? '',
			decimals: Number(typed.decimals || 0),
			tracking: typed.carries,
			expiry: typed.expiry,
			shelfLife: typed.shelfLife?.trim() || null,
			runMode: typed.runMode
		});
		return {
			said: created ? `${code} is added. Open it for its parts list and rule.` : `${code} is there already, just so.`
		};
	})
};
