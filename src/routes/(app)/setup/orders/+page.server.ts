import { pool } from '$lib/server/database/pool';
import { importOrders } from '$lib/server/orders/create';
import { allow, allowPage, attempt } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) => {
	allowPage(event, 'write orders');
};
export const actions: Actions = {
	default: async (event) => {
		const form = await event.request.formData();
		const file = form.get('file');
		const csv = file instanceof File && file.size ? await file.text() : String(form.get('csv') ?? '');
		const dryRun = form.get('do') !== 'import';
		return attempt({ csv }, async () => {
			const who = allow(event, 'write orders');
			return { csv, result: await importOrders(pool(), who.name, csv, dryRun) };
		});
	}
};
