import { error, redirect } from '@sveltejs/kit';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ parent }) => {
	const { tabs } = await parent();
	if (!tabs.length) error(403, 'Your role has nothing to set up here.');
	redirect(303, tabs[0].url);
};
