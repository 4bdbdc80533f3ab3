import { Problem } from '$lib/core/problem/problem';
import { pool } from '$lib/server/database/pool';
import { eventHead, movedList } from '$lib/server/ledger/moved';
import { listFor } from '$lib/server/list/page';
import { idOf, page } from '$lib/server/request';
import type { PageServerLoad } from './$types';

/** Everything that was moved; narrowed to one event, with what that event says of itself. */
export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const { searchParams: p } = event.url;
		const of = p.get('event.from') && p.get('event.from') === p.get('event.to') ? p.get('event.from') : null;
		const id = of && idOf(of);
		const head = id ? await eventHead(pool(), id) : null;
		if (of && !head) throw new Problem(`There is no event ${of.slice(0, 40)}. Look it up in what was booked.`, 404);
		return { head, list: await listFor(pool(), event, who, movedList) };
	});
