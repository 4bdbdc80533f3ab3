import { pool } from '$lib/server/database/pool';
import { historyOf } from '$lib/server/history/history';
import { action, page } from '$lib/server/request';
import { saleTerms, saveFirm } from '$lib/server/setup/firm';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write places and partners', async () => ({
		terms: await saleTerms(pool()),
		history: (await historyOf(pool(), 'firm', 'firm')).filter((c) => c.field === 'terms')
	}));
export const actions: Actions = {
	default: action('write places and partners', async ({ who, typed }) => {
		await saveFirm(pool(), who.name, { terms: typed.terms ?? '' });
		return { said: 'Saved. Who signs from now on agrees to these; what was signed stays as it was.' };
	})
};
