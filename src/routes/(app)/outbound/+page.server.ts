import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { listOrders } from '$lib/server/orders/orders';
import { today } from '$lib/server/orders/sheet';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, locals }) => {
	const q = (url.searchParams.get('q') ?? '').slice(0, 100);
	const closed = url.searchParams.has('closed');
	return {
		q,
		closed,
		today: today(),
		mayAdd: can(locals.person?.role, 'write orders'),
		rows: [...(await listOrders(pool(), 'sale', q, closed))]
	};
};
