import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { routeOf, setRoute } from '$lib/server/floor/routes';
import { openStations } from '$lib/server/production/station';
import { action, page, readJson } from '$lib/server/request';
import { listFacts } from '$lib/server/setup/facts';
import { itemNames } from '$lib/server/setup/items';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write items', async () => {
		const { code } = event.params;
		const [all, route, stations, facts] = await Promise.all([
			itemNames(pool()),
			routeOf(pool(), code),
			openStations(pool()),
			listFacts(pool())
		]);
		const item = all.find((i) => i.code === code);
		if (!item) throw new Problem(`There is no item ${code.slice(0, 60)}.`, 404);
		return {
			item: { code, name: item.name },
			operations: route?.operations ?? [],
			stations: stations.map((s) => [s.code, s.name] as const),
			facts: facts.map((f) => [f.code, f.name] as const)
		};
	});
export const actions: Actions = {
	default: action('write items', async ({ who, typed, event }) => {
		const changed = await setRoute(pool(), who.name, event.params.code ?? '', {
			operations: readJson(typed.operations)
		});
		return {
			said: changed
				? 'Saved. It counts for units that are released from now on.'
				: 'Nothing was changed: the route is so already.'
		};
	})
};
