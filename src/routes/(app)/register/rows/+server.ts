import { json } from '@sveltejs/kit';
import { dayIn } from '$lib/core/time/clock';
import { pool } from '$lib/server/database/pool';
import { firmZone } from '$lib/server/marks/zone';
import { filterOf } from '$lib/server/register/filter';
import { registerCount, registerPage } from '$lib/server/register/search';
import { allow, answer, idOf } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** A page of the register after a number; the first page comes with the count. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const p = event.url.searchParams;
		const filter = { ...filterOf(p), today: dayIn(await firmZone(pool()), new Date()) };
		const [number, id] = [p.get('afterNumber'), idOf(p.get('afterId'))];
		const after = number && id ? { number, id } : undefined;
		const [rows, count] = await Promise.all([
			registerPage(pool(), filter, after),
			after ? null : registerCount(pool(), filter)
		]);
		return json({ rows, count });
	});
