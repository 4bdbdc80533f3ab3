import { redirect } from '@sveltejs/kit';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { historyOf } from '$lib/server/history/history';
import { listPatterns, savePattern } from '$lib/server/numbering/patterns';
import { action, page, readJson } from '$lib/server/request';
import { itemNames } from '$lib/server/setup/items';
import { placeCodes } from '$lib/server/setup/places';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write items', async () => {
		const { code } = event.params;
		const fresh = code === 'new';
		const [items, places, [pattern], history] = await Promise.all([
			itemNames(pool()),
			placeCodes(pool()),
			fresh ? [] : listPatterns(pool(), code),
			fresh ? [] : historyOf(pool(), 'pattern', code)
		]);
		if (!fresh && !pattern) throw new Problem(`There is no number pattern ${code.slice(0, 60)}.`, 404);
		return {
			pattern: pattern ?? null,
			history,
			items: items.filter((i) => i.tracking !== 'none').map(({ code, name }) => ({ code, name })),
			places: places.map((p) => p.code)
		};
	});

const save = action('write items', async ({ who, typed, event }) => {
	const code = event.params.code ?? '';
	const fresh = code === 'new';
	const start = typed.start?.trim();
	const pattern = {
		code: fresh ? (typed.code ?? '').trim() : code,
		name: typed.name ?? '',
		blocks: readJson(typed.blocks),
		...(start ? { start } : {})
	};
	await savePattern(pool(), who.name, pattern, fresh ? null : code);
	return { said: 'Saved.', code: pattern.code };
});
export const actions: Actions = {
	default: async (event) => {
		const done = await save(event);
		if (event.params.code === 'new' && 'code' in done)
			redirect(303, `/setup/patterns/${encodeURIComponent(done.code)}`);
		return done;
	}
};
