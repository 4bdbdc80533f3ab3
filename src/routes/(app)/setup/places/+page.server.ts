import { pool } from '$lib/server/database/pool';
import { allow, allowPage, attempt, fields } from '$lib/server/request';
import { addPlace, listPlaces, setDock } from '$lib/server/setup/places';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'write places and partners');
	return { places: [...(await listPlaces(pool()))] };
};
export const actions: Actions = {
	add: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			allow(event, 'write places and partners');
			await addPlace(pool(), { code: typed.code ?? '', name: typed.name ?? '', dock: typed.dock === 'yes' });
			return { said: `${typed.code} is added.` };
		});
	},
	dock: async (event) => {
		const typed = await fields(event.request);
		return attempt({}, async () => {
			allow(event, 'write places and partners');
			await setDock(pool(), typed.code ?? '', typed.dock === 'yes');
			return { said: `${typed.code} is ${typed.dock === 'yes' ? 'a dock: what arrives there is offered to be put away' : 'no dock any more'}.` }; // prettier-ignore
		});
	}
};
