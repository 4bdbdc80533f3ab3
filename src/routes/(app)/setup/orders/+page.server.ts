import { fail } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { importOrders } from '$lib/server/document/import';
import { allow, form, page } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) => page(event, 'write orders', () => {});
export const actions: Actions = {
	default: async (event) => {
		let csv = '';
		try {
			const who = allow(event, 'write orders');
			const sent = await form(event.request);
			const file = sent.get('file');
			csv = file instanceof File && file.size ? await file.text() : String(sent.get('csv') ?? '');
			const dryRun = sent.get('do') !== 'import';
			return { csv, result: await importOrders(pool(), who, csv, dryRun) };
		} catch (e) {
			if (!(e instanceof Problem)) throw e;
			return fail(e.status, { faults: e.faults, typed: { csv } });
		}
	}
};
