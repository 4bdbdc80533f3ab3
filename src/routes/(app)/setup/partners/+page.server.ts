import { pool } from '$lib/server/database/pool';
import { allow, allowPage, attempt, fields } from '$lib/server/request';
import { addPartner, listPartners } from '$lib/server/setup/places';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'write places and partners');
	return { partners: [...(await listPartners(pool()))] };
};
export const actions: Actions = {
	default: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			allow(event, 'write places and partners');
			await addPartner(pool(), { code: typed.code ?? '', name: typed.name ?? '', kind: typed.kind as never });
			return { said: `${typed.name} is added.` };
		});
	}
};
