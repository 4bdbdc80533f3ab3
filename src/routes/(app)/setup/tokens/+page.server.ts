import { roles } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { historyOfAll } from '$lib/server/history/history';
import { listFor } from '$lib/server/list/page';
import { accessList } from '$lib/server/people/list';
import { makeToken, revokeToken } from '$lib/server/people/tokens';
import { action, idOf, page } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'manage tokens', async (who) => ({
		list: await listFor(pool(), event, who, accessList),
		roles,
		history: await historyOfAll(pool(), 'token')
	}));
export const actions: Actions = {
	make: action('manage tokens', async ({ who, typed }) => ({
		secret: await makeToken(pool(), typed.name ?? '', typed.role ?? '', who.name, typed.ends ?? ''),
		name: typed.name
	})),
	revoke: action('manage tokens', async ({ who, typed }) => {
		const id = idOf(typed.id);
		if (id) await revokeToken(pool(), who.name, id);
		return { said: 'Withdrawn. It opens nothing from now on.' };
	})
};
