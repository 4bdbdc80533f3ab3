import { pool } from '$lib/server/database/pool';
import { historyOfAll } from '$lib/server/history/history';
import { action, page } from '$lib/server/request';
import { listFor } from '$lib/server/list/page';
import { stationList } from '$lib/server/setup/lists';
import { placeCodes } from '$lib/server/setup/places';
import { saveStation, setStationClosed } from '$lib/server/setup/stations';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write places and partners', async (who) => {
		const [list, places, history] = await Promise.all([
			listFor(pool(), event, who, stationList),
			placeCodes(pool()),
			historyOfAll(pool(), 'station')
		]);
		return { list, places: places.map((p) => p.code), history };
	});
const typedStation = (typed: Record<string, string | undefined>) => ({
	code: typed.code ?? '',
	name: typed.name ?? '',
	place: typed.place ?? '',
	review: typed.review === 'yes'
});
export const actions: Actions = {
	add: action('write places and partners', async ({ who, typed }) => {
		await saveStation(pool(), who.name, typedStation(typed), true);
		return { said: `Station ${typed.code} is added.` };
	}),
	review: action('write places and partners', async ({ who, typed }) => {
		await saveStation(pool(), who.name, typedStation(typed), false);
		return {
			said:
				typed.review === 'yes'
					? `What is put together at ${typed.name} waits for a review from now on.`
					: `What is put together at ${typed.name} is booked at once from now on.`
		};
	}),
	closed: action('write places and partners', async ({ who, typed }) => {
		const closed = typed.closed === 'yes';
		await setStationClosed(pool(), who.name, typed.code ?? '', closed);
		return { said: closed ? `Station ${typed.code} is closed.` : `Station ${typed.code} is open again.` };
	})
};
