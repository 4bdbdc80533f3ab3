import { pool } from '$lib/server/database/pool';
import { allow, allowPage, attempt, fields } from '$lib/server/request';
import { listFacts, saveFact, type FactInput } from '$lib/server/setup/facts';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'write items');
	const facts = [...(await listFacts(pool()))];
	return { facts, fact: facts.find((f) => f.code === event.url.searchParams.get('fact')) ?? null };
};

export const actions: Actions = {
	default: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			const who = allow(event, 'write items');
			const text = (name: string) => typed[name]?.trim() || null;
			const input: FactInput = {
				...{ code: typed.code ?? '', name: typed.name ?? '', kind: typed.kind as never, unit: text('unit') },
				...{ decimals: typed.decimals || 0, low: text('low'), high: text('high') },
				choices: (typed.choices ?? '').split(/[\n,;]/).map((c) => c.trim()).filter(Boolean), // prettier-ignore
				...{ outside: (typed.outside || 'reason') as never, per: (typed.per || 'lot') as never }
			};
			await saveFact(pool(), who.name, input, typed.was || null);
			return { said: `${input.name.trim()} is ${typed.was ? 'saved' : 'defined. Ask it in the rule of an item or a kind'}.` }; // prettier-ignore
		});
	}
};
