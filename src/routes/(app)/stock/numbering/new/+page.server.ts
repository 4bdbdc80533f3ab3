import { redirect } from '@sveltejs/kit';
import { documentKind, documentPath } from '$lib/core/document/kinds';
import { pool } from '$lib/server/database/pool';
import { action, page } from '$lib/server/request';
import { bareStock, numberStock } from '$lib/server/stock/number';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, documentKind('numbering').create, async () => ({ bare: [...(await bareStock(pool()))].slice(0, 500) }));
export const actions: Actions = {
	default: async (event) => {
		const made = await action('adjust stock', async ({ who, typed }) => ({
			codes: await numberStock(pool(), who, typed.item ?? '')
		}))(event);
		if (!('codes' in made)) return made;
		redirect(303, made.codes.length === 1 ? documentPath('numbering', made.codes[0]) : documentKind('numbering').path);
	}
};
