import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { movedWords } from '$lib/server/ledger/moved';
import { action, page } from '$lib/server/request';
import { emptyInto } from '$lib/server/stock/empty';
import { lyingAt, placesWithStock } from '$lib/server/stock/putaway';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const places = await placesWithStock(pool());
		const asked = event.url.searchParams.get('place');
		const place = places.find((p) => p.code === asked) ?? places.find((p) => p.holds) ?? places[0] ?? null;
		const find = (event.url.searchParams.get('find') ?? '').slice(0, 100);
		return {
			find,
			places: [...places],
			place: place?.code ?? null,
			...(place ? await lyingAt(pool(), place.code, find) : { lying: [], more: false }),
			may: can(who.role, 'move stock')
		};
	});
export const actions: Actions = {
	empty: action('move stock', async ({ who, typed }) => {
		const { key = '', from = '', to = '', reason = '' } = typed;
		const { id } = await emptyInto(pool(), who, { key, from, to, reason });
		return { said: `Moved to ${to}: ${await movedWords(pool(), id)}. ${from} is empty.` };
	})
};
