import { json } from '@sveltejs/kit';
import { rest } from '$lib/core/quantity/quantity';
import { stopReason } from '$lib/core/allocation/allocate';
import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { getOrder } from '$lib/server/orders/orders';
import { today } from '$lib/server/orders/sheet';
import { standing } from '$lib/server/stock/available';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** What there is of a line's item, with what is free of it; at most a hundred, and the true count. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		const order = await getOrder(pool(), event.params.code);
		const line = order?.lines.find((l) => l.id === event.url.searchParams.get('line'));
		if (!order || !line) throw new Problem('This line is not there any more. Reload the page.', 404);
		const q = (event.url.searchParams.get('q') ?? '').toLowerCase();
		const site = order.kind === 'sale' ? (order.place?.split('/')[0] ?? null) : null;
		const all = await standing(pool(), [line.itemId], order.id, site);
		const found = all.filter((s) => !q || `${s.number} ${s.place} ${s.lot ?? ''}`.toLowerCase().includes(q));
		return json({
			total: found.length,
			stock: found
				.slice(0, 100)
				.map((s) => ({ ...s, free: rest(s.qty, s.promised ?? '0'), stopped: stopReason(s, today()) }))
		});
	});
