import { pool } from '$lib/server/database/pool';
import { itemNames } from '$lib/server/setup/items';
import { documentPage } from '$lib/server/sheet/page';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	const [shown, items] = await Promise.all([
		documentPage(pool(), event, event.params.code, 'production'),
		itemNames(pool())
	]);
	return { ...shown, items: items.map(({ code, name }) => [code, name] as const) };
};
