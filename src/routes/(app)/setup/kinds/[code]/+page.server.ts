import { redirect } from '@sveltejs/kit';
import { STEPS, nothing } from '$lib/core/marking/rule';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { historyOf } from '$lib/server/history/history';
import { action, page, readJson } from '$lib/server/request';
import { listFacts } from '$lib/server/setup/facts';
import { getKind, kindMeans, saveKind } from '$lib/server/setup/kinds';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write items', async () => {
		const { code } = event.params;
		const fresh = code === 'new';
		const [kind, facts, history] = await Promise.all([
			fresh ? null : getKind(pool(), code),
			listFacts(pool()),
			fresh ? [] : historyOf(pool(), 'kind', code)
		]);
		if (!fresh && !kind) throw new Problem(`There is no kind ${code.slice(0, 60)}.`, 404);
		return {
			kind,
			history,
			rules: kind?.rules ?? STEPS.map(nothing),
			facts: facts.map((f) => ({ code: f.code, name: f.name }))
		};
	});

const save = action('write items', async ({ who, typed, event }) => {
	const code = event.params.code ?? '';
	const fresh = code === 'new';
	const rules = readJson(typed.rules);
	const kind = { code: fresh ? (typed.code ?? '').trim() : code, name: typed.name ?? '', rules };
	// A rule is saved after its meaning was shown: what was shown comes back with the second press.
	const means = fresh ? [] : await kindMeans(pool(), code, rules);
	if (means.length && typed.confirmed !== JSON.stringify(rules)) return { means, rules };
	await saveKind(pool(), who.name, kind, fresh ? null : code);
	return { said: 'Saved. It counts from the next booking on.', code: kind.code };
});
export const actions: Actions = {
	default: async (event) => {
		const done = await save(event);
		if (event.params.code === 'new' && 'code' in done && done.code)
			redirect(303, `/setup/kinds/${encodeURIComponent(done.code)}`);
		return done;
	}
};
