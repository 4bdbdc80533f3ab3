import { roles } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { listTokens, makeToken, revokeToken } from '$lib/server/people/tokens';
import { allow, allowPage, attempt, fields } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'manage tokens');
	return { tokens: [...(await listTokens(pool()))], roles };
};
export const actions: Actions = {
	make: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			const who = allow(event, 'manage tokens');
			return { secret: await makeToken(pool(), typed.name ?? '', typed.role ?? '', who.name), name: typed.name };
		});
	},
	revoke: async (event) => {
		const { id = '' } = await fields(event.request);
		return attempt({}, async () => {
			allow(event, 'manage tokens');
			if (/^\d{1,18}$/.test(id)) await revokeToken(pool(), id);
			return { said: 'Revoked. It opens nothing from now on.' };
		});
	}
};
