import { error } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { waiting } from '$lib/server/today/today';

export async function load({ locals, depends }) {
	depends('app:waiting');
	if (!locals.person) error(401, 'Sign in first.');
	const { name, role } = locals.person;
	return { person: { name, role }, waiting: await waiting(pool(), role) };
}
