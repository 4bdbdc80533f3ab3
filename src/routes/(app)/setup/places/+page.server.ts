import { pool } from '$lib/server/database/pool';
import { allow, allowPage, attempt, fields } from '$lib/server/request';
import { addPlace, listPlaces } from '$lib/server/setup/places';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'write places and partners');
	return { places: [...(await listPlaces(pool()))] };
};
export const actions: Actions = {
	default: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			allow(event, 'write places and partners');
			await addPlace(pool(), { code: typed.code ?? '', name: typed.name ?? '' });
			return { said: `${typed.code} is added.` };
		});
	}
};
