import { pool } from '$lib/server/database/pool';
import { historyOfAll } from '$lib/server/history/history';
import { action, page } from '$lib/server/request';
import { listFor } from '$lib/server/list/page';
import { firmCounts, saveFirm } from '$lib/server/setup/firm';
import { wayList } from '$lib/server/setup/lists';
import { saveWay, setWayClosed } from '$lib/server/setup/ways';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write places and partners', async (who) => {
		const [list, { divisor }, history] = await Promise.all([
			listFor(pool(), event, who, wayList),
			firmCounts(pool()),
			historyOfAll(pool(), 'way')
		]);
		return { list, divisor, history };
	});
const typedWay = (typed: Record<string, string | undefined>) => ({
	code: typed.code ?? '',
	name: typed.name ?? '',
	divisor: typed.divisor ?? '',
	rate: typed.rate ?? '',
	minimum: typed.minimum ?? '',
	currency: typed.currency ?? ''
});
export const actions: Actions = {
	add: action('write places and partners', async ({ who, typed }) => {
		await saveWay(pool(), who.name, typedWay(typed), true);
		return { said: `${typed.name} is added.` };
	}),
	change: action('write places and partners', async ({ who, typed }) => {
		await saveWay(pool(), who.name, typedWay(typed), false);
		return { said: `${typed.name} is changed. It counts for whatever is looked at from now on.` };
	}),
	divisor: action('write places and partners', async ({ who, typed }) => {
		await saveFirm(pool(), who.name, { divisor: typed.divisor ?? '' });
		return { said: `${typed.divisor} cm³ count as a kilogram from now on.` };
	}),
	closed: action('write places and partners', async ({ who, typed }) => {
		const closed = typed.closed === 'yes';
		await setWayClosed(pool(), who.name, typed.code ?? '', closed);
		return { said: closed ? `${typed.code} is closed: no new order takes it.` : `${typed.code} is open again.` };
	})
};
