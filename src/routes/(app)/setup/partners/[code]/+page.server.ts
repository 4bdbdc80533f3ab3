import { pool } from '$lib/server/database/pool';
import { historyOf } from '$lib/server/history/history';
import { action, page } from '$lib/server/request';
import { getPartner, savePartner } from '$lib/server/setup/places';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write places and partners', async () => {
		const { code } = event.params;
		const [partner, history] = await Promise.all([getPartner(pool(), code), historyOf(pool(), 'partner', code)]);
		return { partner, history };
	});
export const actions: Actions = {
	default: action('write places and partners', async ({ who, typed, event }) => {
		const code = event.params.code ?? '';
		await getPartner(pool(), code);
		const days = typed.minimumDaysLeft?.trim();
		await savePartner(pool(), who.name, code, {
			name: typed.name ?? '',
			kind: typed.kind,
			minimumDaysLeft: days ? Number(days) : null,
			neverOlder: typed.neverOlder === 'yes',
			newOnly: typed.newOnly ? typed.newOnly === 'yes' : null,
			oneLot: typed.oneLot === 'yes'
		});
		return { said: 'Saved. It counts from the next suggestion on.' };
	})
};
