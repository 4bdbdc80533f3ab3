import { pool } from '$lib/server/database/pool';
import { allowPage } from '$lib/server/request';
import { listKinds } from '$lib/server/setup/kinds';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'write items');
	return { kinds: [...(await listKinds(pool()))] };
};
