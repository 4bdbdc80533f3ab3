import Bowser from 'bowser';
import { Problem } from '$lib/core/problem/problem';
import { timeIn } from '$lib/core/time/clock';
import { pool } from '$lib/server/database/pool';
import { firmZone } from '$lib/server/marks/zone';
import { setOwnPassword } from '$lib/server/people/form';
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
	end: action('read', async ({ who, typed, event }) => {
		const one = typed.session === undefined ? null : idOf(typed.session);
		if (typed.session !== undefined && !one) throw new Problem('There is no such session. Reload the page.');
		await endSessions(pool(), who.name, event.cookies.get('session') ?? '', one);
		return { said: one ? 'That session has ended.' : 'You are signed out everywhere else.' };
	})
};
