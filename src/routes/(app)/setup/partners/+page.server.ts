import { pool } from '$lib/server/database/pool';
import { historyOfAll } from '$lib/server/history/history';
import { action, page } from '$lib/server/request';
import { listFor } from '$lib/server/list/page';
import { partnerList } from '$lib/server/setup/lists';
import { addPartner } from '$lib/server/setup/places';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write places and partners', async (who) => ({
		list: await listFor(pool(), event, who, partnerList),
		history: await historyOfAll(pool(), 'partner')
	}));
export const actions: Actions = {
	default: action('write places and partners', async ({ who, typed }) => {
		await addPartner(pool(), who.name, { code: typed.code ?? '', name: typed.name ?? '', kind: typed.kind });
		return { said: `${typed.name} is added.` };
	})
};
