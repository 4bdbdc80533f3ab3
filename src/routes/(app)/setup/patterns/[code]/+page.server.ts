import { error, redirect } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { listPatterns, savePattern } from '$lib/server/numbering/patterns';
import { allow, allowPage, attempt, fields, readJson } from '$lib/server/request';
import { listItems } from '$lib/server/setup/items';
import { listPlaces } from '$lib/server/setup/places';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'write items');
	const { code } = event.params;
	const [items, places] = await Promise.all([listItems(pool()), listPlaces(pool())]);
	const choices = { items: items.filter((i) => i.tracking !== 'none').map(({ code, name }) => ({ code, name })), places: places.map((p) => p.code) }; // prettier-ignore
	if (code === 'new') return { pattern: null, ...choices };
	const [pattern] = await listPatterns(pool(), code);
	if (!pattern) error(404, `There is no number pattern ${code}.`);
	return { pattern, ...choices };
};

export const actions: Actions = {
	default: async (event) => {
		const typed = await fields(event.request);
		const { code } = event.params;
		const done = await attempt(typed, async () => {
			const who = allow(event, 'write items');
			const blocks = readJson(typed.blocks);
			const fresh = code === 'new';
			await savePattern(
				pool(),
				who.name,
				{
					...{ code: fresh ? (typed.code ?? '') : code, name: typed.name ?? '', blocks },
					...(typed.start?.trim() ? { start: typed.start.trim() } : {})
				},
				fresh ? null : code
			);
			return { said: 'Saved.', code: fresh ? typed.code.trim() : code };
		});
		if ('code' in done && code === 'new') redirect(303, `/setup/patterns/${encodeURIComponent(done.code as string)}`);
		return done;
	}
};
