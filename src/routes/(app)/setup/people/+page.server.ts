import { roles } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { historyOfAll } from '$lib/server/history/history';
import { listFor } from '$lib/server/list/page';
import { peopleList } from '$lib/server/people/list';
import { addPerson, setActive, setPassword } from '$lib/server/people/people';
import { action, keepNothing, page } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'manage people', async (who) => ({
		list: await listFor(pool(), event, who, peopleList),
		roles,
		history: await historyOfAll(pool(), 'person')
	}));
export const actions: Actions = {
	add: action(
		'manage people',
		async ({ who, typed }) => {
			const { login = '', name = '', role, password = '' } = typed;
			await addPerson(pool(), who.name, { login, name, role, password });
			return { said: `${name} can sign in as ${login}. The first sign-in asks for a password of their own.` };
		},
		({ password: _password, ...typed }) => typed
	),
	active: action('manage people', async ({ who, typed }) => {
		const { login = '' } = typed;
		const active = typed.active === 'yes';
		await setActive(pool(), who.name, login, active);
		return { said: active ? `${login} can sign in again.` : `${login} is signed out everywhere and cannot sign in.` };
	}),
	password: action(
		'manage people',
		async ({ who, typed }) => {
			const { login = '', password = '' } = typed;
			await setPassword(pool(), who.name, login, password);
			return { said: `${login} has a new password and is signed out everywhere.` };
		},
		keepNothing
	)
};
