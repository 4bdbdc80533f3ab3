import { pool } from '$lib/server/database/pool';
import { drawnNumbers } from '$lib/server/numbering/draw';
import { idOf, page } from '$lib/server/request';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'write items', async () => {
		const p = event.url.searchParams;
		const q = (p.get('q') ?? '').trim().slice(0, 60);
		return { q, ...(await drawnNumbers(pool(), q, idOf(p.get('before')))) };
	});
