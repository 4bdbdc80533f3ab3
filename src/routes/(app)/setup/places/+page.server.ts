import { pool } from '$lib/server/database/pool';
import { historyOfAll } from '$lib/server/history/history';
import { grouped } from '$lib/core/quantity/sign';
import { firmZone } from '$lib/server/marks/zone';
import { action, page } from '$lib/server/request';
import { firmCounts, saveFirm } from '$lib/server/setup/firm';
import { listFor } from '$lib/server/list/page';
import { placeList } from '$lib/server/setup/lists';
import { addPlace, saveSite, setPlaceUse, siteRules } from '$lib/server/setup/places';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write places and partners', async (who) => {
		const [list, firm, history, sites, { preference, newOnly }] = await Promise.all([
			listFor(pool(), event, who, placeList),
			firmZone(pool()),
			historyOfAll(pool(), 'place'),
			siteRules(pool()),
			firmCounts(pool())
		]);
		return { list, firm, history, sites: [...sites], preference, newOnly };
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
		await setPlaceUse(pool(), who.name, typed.code ?? '', 'dock', typed.dock === 'yes');
		return {
			said: `${typed.code} is ${typed.dock === 'yes' ? 'a dock: what arrives there is offered to be put away' : 'no dock any more'}.`
		};
	}),
	staging: action('write places and partners', async ({ who, typed }) => {
		await setPlaceUse(pool(), who.name, typed.code ?? '', 'staging', typed.staging === 'yes');
		return {
			said: `${typed.code} is ${typed.staging === 'yes' ? 'where picked goods wait: its site picks before it ships' : 'no place where picked goods wait any more'}.`
		};
	}),
	site: action('write places and partners', async ({ who, typed }) => {
		await saveSite(pool(), who.name, typed.code ?? '', {
			preference: typed.preference || null,
			binsFirst: typed.binsFirst === 'yes',
			area: typed.area?.trim() || null
		});
		return { said: `${typed.code} is saved. It counts from the next suggestion on.` };
	}),
	firm: action('write places and partners', async ({ who, typed }) => {
		await saveFirm(pool(), who.name, {
			zone: typed.zone ?? '',
			sign: typed.sign ?? '',
			preference: typed.preference,
			newOnly: typed.newOnly === 'yes'
		});
		return { said: `The firm’s time is ${typed.zone?.trim()}; numbers are written ${grouped('1250.5')}.` };
	})
};
