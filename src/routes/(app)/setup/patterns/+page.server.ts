import { example } from '$lib/core/numbering/pattern';
import { pool } from '$lib/server/database/pool';
import { listPatterns } from '$lib/server/numbering/patterns';
import { allowPage } from '$lib/server/request';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'write items');
	const patterns = await listPatterns(pool());
	return { patterns: patterns.map((p) => ({ ...p, like: example(p.blocks) })) };
};
