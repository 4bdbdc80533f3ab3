import { redirect } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { signOut } from '$lib/server/people/sessions';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = async ({ cookies }) => {
	const secret = cookies.get('session');
	if (secret) await signOut(pool(), secret);
	cookies.delete('session', { path: '/' });
	redirect(303, '/sign-in');
};
