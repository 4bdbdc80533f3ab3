import { redirect } from '@sveltejs/kit';
import Bowser from 'bowser';
import { Problem } from '$lib/core/problem/problem';
import { dayIn, timeIn } from '$lib/core/time/clock';
import { pool } from '$lib/server/database/pool';
import { firmZone } from '$lib/server/marks/zone';
import { setOwnPassword } from '$lib/server/people/form';
import { chooseDateLanguage } from '$lib/server/people/you';
import { endSessions, sessionsOf } from '$lib/server/people/sessions';
import { action, idOf, page } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

/** A browser as people call it: Chrome on Windows. */
function browserName(agent: string): string {
	const { browser, os } = agent ? Bowser.parse(agent) : { browser: {}, os: {} };
	return [browser.name, os.name].filter(Boolean).join(' on ');
}

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const [zone, sessions] = await Promise.all([
			firmZone(pool()),
			sessionsOf(pool(), who.name, event.cookies.get('session') ?? '')
		]);
		return {
			login: who.name,
			today: dayIn(zone, new Date()),
			sessions: sessions.map(({ browser, since, until, ...s }) => ({
				...s,
				since: timeIn(zone, since),
				until: timeIn(zone, until),
				browser: browserName(browser)
			}))
		};
	});
export const actions: Actions = {
	password: setOwnPassword,
	dates: async (event) => {
		const made = await action('read', async ({ who, typed }) => {
			await chooseDateLanguage(pool(), who.name, typed.dates);
			return { done: true };
		})(event);
		if (!('done' in made)) return made;
		// The whole page anew: everything that is shown is in that language then.
		redirect(303, '/you');
	},
	end: action('read', async ({ who, typed, event }) => {
		const one = typed.session === undefined ? null : idOf(typed.session);
		if (typed.session !== undefined && !one) throw new Problem('There is no such session. Reload the page.');
		await endSessions(pool(), who.name, event.cookies.get('session') ?? '', one);
		return { said: one ? 'That session has ended.' : 'You are signed out everywhere else.' };
	})
};
