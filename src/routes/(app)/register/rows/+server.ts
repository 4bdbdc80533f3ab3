import { json } from '@sveltejs/kit';
import { pool } from '$lib/server/database/pool';
import { filterOf } from '$lib/server/register/filter';
import { registerCount, registerPage } from '$lib/server/register/search';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** A page of the register after a number; the first page comes with the count. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const p = event.url.searchParams;
		const filter = filterOf(p);
		const [number, id] = [p.get('afterNumber'), p.get('afterId')];
		const after = number && id && /^\d{1,18}$/.test(id) ? { number, id } : undefined;
		const [rows, count] = await Promise.all([
			registerPage(pool(), filter, after),
			after ? null : registerCount(pool(), filter)
		]);
		return json({ rows, count });
	});
