import { pool } from '$lib/server/database/pool';
import { documentListPage } from '$lib/server/document/pages';
import { accuracy } from '$lib/server/stock/count';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	const page = await documentListPage(pool(), event, 'count');
	return { ...page, accuracy: [...(await accuracy(pool()))] };
};
