import { error, redirect } from '@sveltejs/kit';
import { STEPS, nothing } from '$lib/core/marking/rule';
import { pool } from '$lib/server/database/pool';
import { allow, allowPage, attempt, fields, readJson } from '$lib/server/request';
import { listFacts } from '$lib/server/setup/facts';
import { getKind, kindMeans, saveKind } from '$lib/server/setup/kinds';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'write items');
	const { code } = event.params;
	const kind = code === 'new' ? null : await getKind(pool(), code);
	if (code !== 'new' && !kind) error(404, `There is no kind ${code}.`);
	const facts = (await listFacts(pool())).map((f) => ({ code: f.code, name: f.name }));
	return { kind, rules: kind?.rules ?? STEPS.map(nothing), facts };
};

export const actions: Actions = {
	default: async (event) => {
		const typed = await fields(event.request);
		const { code } = event.params;
		const fresh = code === 'new';
		const done = await attempt(typed, async () => {
			const who = allow(event, 'write items');
			const rules = readJson(typed.rules);
			const kind = { code: fresh ? (typed.code ?? '').trim() : code, name: typed.name ?? '', rules: rules as never };
			// A rule is saved after its meaning was shown: what was shown comes back with the second press.
			const means = fresh || !Array.isArray(rules) ? [] : await kindMeans(pool(), code, rules);
			if (means.length && typed.confirmed !== JSON.stringify(rules)) return { means, rules };
			await saveKind(pool(), who.name, kind, fresh ? null : code);
			return { said: 'Saved. It counts from the next booking on.', code: kind.code };
		});
		if (fresh && 'code' in done) redirect(303, `/setup/kinds/${encodeURIComponent(done.code as string)}`);
		return done;
	}
};
