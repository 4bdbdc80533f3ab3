import { pool } from '$lib/server/database/pool';
import { historyOf } from '$lib/server/history/history';
import { action, page } from '$lib/server/request';
import { listFor } from '$lib/server/list/page';
import { factList } from '$lib/server/setup/lists';
import { listFacts, saveFact } from '$lib/server/setup/facts';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write items', async (who) => {
		const code = event.url.searchParams.get('fact');
		const [fact = null] = code ? await listFacts(pool(), [code]) : [];
		return {
			list: await listFor(pool(), event, who, factList),
			fact,
			history: fact ? await historyOf(pool(), 'fact', fact.code) : []
		};
	});

export const actions: Actions = {
	default: action('write items', async ({ who, typed }) => {
		const text = (name: string) => typed[name]?.trim() || null;
		const name = text('name') ?? '';
		await saveFact(
			pool(),
			who.name,
			{
				code: typed.code ?? '',
				name,
				kind: typed.kind,
				unit: text('unit'),
				decimals: typed.decimals || 0,
				low: text('low'),
				high: text('high'),
				choices: (typed.choices ?? '')
					.split(/[\n,;]/)
					.map((c) => c.trim())
					.filter(Boolean),
				outside: typed.outside || 'reason',
				per: typed.per || 'lot'
			},
			typed.was || null
		);
		return { said: `${name} is ${typed.was ? 'saved' : 'added. Ask it in the rule of an item or a kind'}.` };
	})
};
