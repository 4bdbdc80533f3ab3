import { roles } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { addPerson, listPeople, setActive, setPassword } from '$lib/server/people/people';
import { allow, allowPage, attempt, fields } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'manage people');
	return { people: [...(await listPeople(pool()))], roles };
};
export const actions: Actions = {
	add: async (event) => {
		const { password = '', ...typed } = await fields(event.request);
		return attempt(typed, async () => {
			allow(event, 'manage people');
			await addPerson(pool(), {
				login: typed.login ?? '',
				name: typed.name ?? '',
				role: typed.role as never,
				password
			});
			return { said: `${typed.name} can sign in as ${typed.login}.` };
		});
	},
	active: async (event) => {
		const typed = await fields(event.request);
		return attempt({}, async () => {
			allow(event, 'manage people');
			await setActive(pool(), typed.login ?? '', typed.active === 'yes');
			return {
				said:
					typed.active === 'yes'
						? `${typed.login} can sign in again.`
						: `${typed.login} is signed out everywhere and cannot sign in.`
			};
		});
	},
	password: async (event) => {
		const { login = '', password = '' } = await fields(event.request);
		return attempt({}, async () => {
			allow(event, 'manage people');
			await setPassword(pool(), login, password);
			return { said: `${login} has a new password and is signed out everywhere.` };
		});
	}
};
