import { redirect } from '@sveltejs/kit';
import { ownPath } from '$lib/server/people/back';
import { setOwnPassword } from '$lib/server/people/form';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, url }) => {
	if (!locals.person?.asksPassword) redirect(303, ownPath(url));
	return { name: locals.person.name };
};
export const actions: Actions = {
	default: async (event) => {
		const refused = await setOwnPassword(event);
		if ('status' in refused) return refused;
		redirect(303, ownPath(event.url));
	}
};
