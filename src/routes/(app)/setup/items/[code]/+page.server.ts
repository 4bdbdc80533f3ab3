import { error } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { allow, allowPage, attempt, fields } from '$lib/server/request';
import { example } from '$lib/core/numbering/pattern';
import { listPatterns } from '$lib/server/numbering/patterns';
import { can } from '$lib/core/people/can';
import { changeItem, listItems, ruleMeans } from '$lib/server/setup/items';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'write items');
	const [item] = await listItems(pool(), event.params.code);
	if (!item) error(404, `There is no item ${event.params.code}.`);
	const all = await listItems(pool());
	const patterns = await listPatterns(pool());
	return {
		item,
		patterns: patterns.map(({ code, name, blocks }) => ({ code, name, like: example(blocks) })),
		all: all.map(({ code, name, unit }) => ({ code, name, unit }))
	};
};

export const actions: Actions = {
	default: async (event) => {
		const typed = await fields(event.request);
		return attempt(typed, async () => {
			allow(event, 'write items');
			const read = (name: string) => {
				try {
					return JSON.parse(typed[name] ?? '[]');
				} catch {
					throw new Problem('The form could not be read. Reload the page.');
				}
			};
			const change = {
				name: typed.name ?? '',
				expiry: typed.expiry as never,
				shelfLife: typed.shelfLife?.trim() || null,
				leastLeft: typed.leastLeft?.trim() || null,
				gtin: typed.gtin?.trim() || null,
				lotPattern: typed.lotPattern || null,
				serialPattern: typed.serialPattern || null,
				misfit: (typed.misfit || 'stop') as never
			};
			// A rule is saved after its meaning was shown: what was shown comes back with the second press.
			const rules = read('rules');
			const means = Array.isArray(rules) && can(event.locals.person?.role, 'write items') ? await ruleMeans(pool(), event.params.code, rules) : []; // prettier-ignore
			if (means.length && typed.confirmed !== JSON.stringify(rules)) return { means, rules };
			await changeItem(pool(), event.params.code, { ...change, rules, parts: read('parts') });
			return { said: 'Saved. It counts from the next booking on.' };
		});
	}
};
