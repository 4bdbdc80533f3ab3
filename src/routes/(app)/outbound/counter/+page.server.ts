import { redirect } from '@sveltejs/kit';
import { documentPath } from '$lib/core/document/kinds';
import { pool } from '$lib/server/database/pool';
import { createDocument } from '$lib/server/document/create';
import { documentListPage } from '$lib/server/document/pages';
import { nextSale } from '$lib/server/outbound/sale';
import { action } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) => documentListPage(pool(), event, 'counter');
export const actions: Actions = {
	/** The next customer at a counter. */
	next: async (event) => {
		const made = await action('book outbound', async ({ who, typed }) => {
			const place = typed.place ?? '';
			const make = () => createDocument(pool(), who.name, { kind: 'counter', place, lines: [] });
			return { code: await nextSale(pool(), who.name, place, make) };
		})(event);
		if (!('code' in made)) return made;
		redirect(303, documentPath('counter', made.code));
	}
};
