import { pool } from '$lib/server/database/pool';
import { allow, allowPage, attempt, fields } from '$lib/server/request';
import { readPolicy, savePolicy } from '$lib/server/setup/policy';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'write items');
	return { policy: await readPolicy(pool()) };
};
export const actions: Actions = {
	default: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			await savePolicy(pool(), allow(event, 'write items').name, typed);
			return { said: 'Saved. It counts from now on, in open sheets too.' };
		});
	}
};
