import { grouped } from '$lib/core/quantity/sign';
import { pool } from '$lib/server/database/pool';
import { findMade } from '$lib/server/production/cards';
import { putPairs } from '$lib/server/production/pairs';
import { action, page, readJson } from '$lib/server/request';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'book production', async () => {
		const order = await findMade(pool(), event.params.code);
		return {
			...{ code: order.code, itemName: order.made.itemName, units: order.made.runMode === 'unit' },
			parts: order.parts.filter((p) => p.tracking !== 'none').map((p) => p.itemName)
		};
	});
export const actions: Actions = {
	look: action('book production', async ({ who, typed, event }) => ({
		result: await putPairs(pool(), who, event.params.code ?? '', { rows: readJson(typed.rows), preview: true }),
		looked: typed.rows
	})),
	put: action('book production', async ({ who, typed, event }) => {
		const result = await putPairs(pool(), who, event.params.code ?? '', { rows: readJson(typed.rows) });
		const n = result.rows.filter((r) => r.taken).length;
		const ready = result.ready.length;
		return {
			result,
			said: `${grouped(n)} ${n === 1 ? 'part is' : 'parts are'} in${ready ? `; ${grouped(ready)} ${ready === 1 ? 'unit has' : 'units have'} all parts now` : ''}.`
		};
	})
};
