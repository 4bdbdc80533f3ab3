import { pool } from '$lib/server/database/pool';
import { historyOfAll } from '$lib/server/history/history';
import { grouped } from '$lib/core/quantity/sign';
import { firmZone } from '$lib/server/marks/zone';
import { action, page } from '$lib/server/request';
import { saveFirm } from '$lib/server/setup/firm';
import { listFor } from '$lib/server/list/page';
import { placeList } from '$lib/server/setup/lists';
import { addPlace, setDock } from '$lib/server/setup/places';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write places and partners', async (who) => {
		const [list, firm, history] = await Promise.all([
			listFor(pool(), event, who, placeList),
			firmZone(pool()),
			historyOfAll(pool(), 'place')
		]);
		return { list, firm, history };
	});
export const actions: Actions = {
	add: action('write places and partners', async ({ who, typed }) => {
		await addPlace(pool(), who.name, {
			code: typed.code ?? '',
			name: typed.name ?? '',
			dock: typed.dock === 'yes',
			zone: typed.zone?.trim() || null
		});
		return { said: `${typed.code} is added.` };
	}),
	dock: action('write places and partners', async ({ who, typed }) => {
		await setDock(pool(), who.name, typed.code ?? '', typed.dock === 'yes');
		return {
			said: `${typed.code} is ${typed.dock === 'yes' ? 'a dock: what arrives there is offered to be put away' : 'no dock any more'}.`
		};
	}),
	firm: action('write places and partners', async ({ who, typed }) => {
		await saveFirm(pool(), who.name, { zone: typed.zone ?? '', sign: typed.sign ?? '' });
		return { said: `The firm’s time is ${typed.zone?.trim()}; numbers are written ${grouped('1250.5')}.` };
	})
};
