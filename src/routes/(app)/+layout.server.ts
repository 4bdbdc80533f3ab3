import { error } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { firmZone } from '$lib/server/marks/zone';
import { waiting } from '$lib/server/today/today';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ locals, depends }) => {
	depends('app:waiting');
	if (!locals.person) error(401, 'Sign in first.');
	const { name, role, sign, dates } = locals.person;
	const [zone, counts] = await Promise.all([firmZone(pool()), waiting(pool(), role)]);
	return { person: { name, role }, zone, sign, dates, waiting: counts };
};
