import { example } from '$lib/core/numbering/pattern';
import { pool } from '$lib/server/database/pool';
import { listPatterns } from '$lib/server/numbering/patterns';
import { page } from '$lib/server/request';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write items', async () => ({
		patterns: (await listPatterns(pool())).map((p) => ({ ...p, like: example(p.blocks) }))
	}));
