import { pool } from '$lib/server/database/pool';
import { drawnNumbers } from '$lib/server/numbering/draw';
import { allowPage } from '$lib/server/request';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async (event) => {
	allowPage(event, 'write items');
	const p = event.url.searchParams;
	const q = (p.get('q') ?? '').trim().slice(0, 60);
	const before = /^\d{1,18}$/.test(p.get('before') ?? '') ? p.get('before') : null;
	return { q, ...(await drawnNumbers(pool(), q, before)) };
};
