import { error } from '@sveltejs/kit';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = ({ locals }) => {
	if (!locals.person) error(401, 'Sign in first.');
	const { name, sign } = locals.person;
	return { person: { name }, sign };
};
