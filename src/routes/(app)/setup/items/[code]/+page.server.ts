import { error } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { allow, allowPage, attempt, fields, readJson } from '$lib/server/request';
import { example } from '$lib/core/numbering/pattern';
import { listPatterns } from '$lib/server/numbering/patterns';
import { listFacts } from '$lib/server/setup/facts';
import { changeItem, listItems, ruleMeans } from '$lib/server/setup/items';
import { listKinds } from '$lib/server/setup/kinds';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'write items');
	const [item] = await listItems(pool(), event.params.code);
	if (!item) error(404, `There is no item ${event.params.code}.`);
	const [all, patterns, facts, kinds] = await Promise.all([listItems(pool()), listPatterns(pool()), listFacts(pool()), listKinds(pool())]); // prettier-ignore
	return {
		item,
		kinds: kinds.map(({ code, name }) => ({ code, name })),
		facts: facts.map(({ code, name }) => ({ code, name })),
		patterns: patterns.map(({ code, name, blocks }) => ({ code, name, like: example(blocks) })),
		all: all.map(({ code, name, unit }) => ({ code, name, unit }))
	};
};

export const actions: Actions = {
	default: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			allow(event, 'write items');
			const text = (name: string) => typed[name]?.trim() || null;
			const rules = readJson(typed.rules) as never;
			const change = {
				...{ name: typed.name ?? '', shelfLife: text('shelfLife'), endOfMonth: typed.endOfMonth === 'yes' },
				...{ warranty: text('warranty'), leastLeft: text('leastLeft'), gtin: text('gtin') },
				...{ lotPattern: text('lotPattern'), serialPattern: text('serialPattern'), drawnAt: (typed.drawnAt || 'sheet') as never }, // prettier-ignore
				...{ misfit: (typed.misfit || 'stop') as never, supplierNumber: (typed.supplierNumber || 'beside') as never },
				...{ kind: text('kind'), ownRule: typed.ownRule !== 'no', rules, parts: readJson(typed.parts) as never }
			};
			// A rule is saved after its meaning was shown: what was shown comes back with the second press.
			const about = JSON.stringify([change.kind, change.ownRule, rules]);
			const means = Array.isArray(rules) ? await ruleMeans(pool(), event.params.code, change) : [];
			if (means.length && typed.confirmed !== about) return { means, about };
			await changeItem(pool(), event.params.code, change);
			return { said: 'Saved. It counts from the next booking on.' };
		});
	}
};
