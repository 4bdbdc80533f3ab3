import { pool } from '$lib/server/database/pool';
import { historyOf } from '$lib/server/history/history';
import { readPolicy } from '$lib/server/ledger/catalogue';
import { action, page } from '$lib/server/request';
import { countLimit, holdDays, saveFirm } from '$lib/server/setup/firm';
import { savePolicy } from '$lib/server/setup/policy';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write items', async () => ({
		policy: await readPolicy(pool()),
		countLimit: await countLimit(pool()),
		holdDays: await holdDays(pool()),
		history: await historyOf(pool(), 'policy', 'firm')
	}));
export const actions: Actions = {
	limit: action('write items', async ({ who, typed }) => {
		await saveFirm(pool(), who.name, { countLimit: typed.countLimit ?? '' });
		return { said: 'Saved. It counts from now on, in open counts too.' };
	}),
	hold: action('write items', async ({ who, typed }) => {
		await saveFirm(pool(), who.name, { holdDays: typed.holdDays ?? '' });
		return { said: 'Saved. It counts from now on, for rows that stand in sheets already too.' };
	}),
	policy: action('write items', async ({ who, typed }) => {
		await savePolicy(pool(), who.name, typed);
		return { said: 'Saved. It counts from now on, in open sheets too.' };
	})
};
