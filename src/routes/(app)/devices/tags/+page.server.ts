import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { addTag, letLeave, placeTag, tagDevices } from '$lib/server/floor/reader';
import { openStations } from '$lib/server/production/station';
import { action, idOf, page } from '$lib/server/request';
import { firmCounts, saveFirm } from '$lib/server/setup/firm';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const [devices, stations, { prefixDigits: digits }] = await Promise.all([
			tagDevices(pool()),
			openStations(pool()),
			firmCounts(pool())
		]);
		return {
			...devices,
			stations: [...stations],
			digits,
			may: can(who.role, 'book production'),
			maySet: can(who.role, 'write places and partners')
		};
	});
export const actions: Actions = {
	add: action('book production', async ({ typed }) => {
		await addTag(pool(), typed.name ?? '');
		return { said: `Tag ${typed.name} is there, and blank.` };
	}),
	place: action('book production', async ({ typed }) => {
		await placeTag(pool(), idOf(typed.tag) ?? '0', typed.station || null);
		return { said: typed.station ? `It lies before the reader of ${typed.station}.` : 'It is out of range.' };
	}),
	prefix: action('write places and partners', async ({ who, typed }) => {
		await saveFirm(pool(), who.name, { prefixDigits: typed.digits ?? '' });
		return { said: 'Saved. Tags that are written from now on carry it.' };
	}),
	leaves: action('book production', async ({ typed }) => {
		await letLeave(pool(), idOf(typed.tag) ?? '0');
		return {};
	})
};
