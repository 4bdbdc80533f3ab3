import { fail, redirect } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { ownPath } from '$lib/server/people/back';
import { SESSION_HOURS, signIn, signOut } from '$lib/server/people/sessions';
import { fields } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, url }) => {
	if (locals.person) redirect(303, ownPath(url));
};

export const actions: Actions = {
	default: async ({ request, cookies, url, getClientAddress }) => {
		let login = '';
		try {
			const typed = await fields(request);
			login = (typed.login ?? '').trim().toLowerCase().slice(0, 60);
			const browser = request.headers.get('user-agent') ?? '';
			const secret = await signIn(pool(), login, (typed.password ?? '').slice(0, 1000), getClientAddress(), browser);
			// Whoever signs in over a session has left it.
			const before = cookies.get('session');
			if (before) await signOut(pool(), before);
			cookies.set('session', secret, {
				path: '/',
				httpOnly: true,
				sameSite: 'lax',
				secure: url.protocol === 'https:',
				maxAge: SESSION_HOURS * 3600
			});
		} catch (e) {
			if (!(e instanceof Problem)) throw e;
			return fail(e.status, { faults: e.faults, typed: { login } });
		}
		redirect(303, ownPath(url));
	}
};
