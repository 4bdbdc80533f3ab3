import { redirect } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { SESSION_HOURS, signIn } from '$lib/server/people/sessions';
import { attempt, fields } from '$lib/server/request';

/** Only a path of our own: nobody is sent elsewhere by a link. */
const ownPath = (to: string | null) => (to && /^\/(?![/\\])/.test(to) ? to : '/');

export const load = ({ locals, url }) => {
	if (locals.person) redirect(303, ownPath(url.searchParams.get('to')));
};

export const actions = {
	default: async ({ request, cookies, url, getClientAddress }) => {
		const { login = '', password = '' } = await fields(request);
		const result = await attempt({ login: login.slice(0, 60) }, async () => ({
			secret: await signIn(pool(), login.trim().toLowerCase().slice(0, 60), password.slice(0, 1000), getClientAddress())
		}));
		if (!('secret' in result)) return result;
		cookies.set('session', result.secret, {
			...{ path: '/', httpOnly: true, sameSite: 'lax', secure: url.protocol === 'https:' },
			maxAge: SESSION_HOURS * 3600
		});
		redirect(303, ownPath(url.searchParams.get('to')));
	}
};
