import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { listOrders } from '$lib/server/orders/orders';
import { today } from '$lib/server/orders/sheet';
import { lastEvents, stockNotes } from '$lib/server/today/today';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals }) => {
	const sql = pool();
	const [inbound, production, outbound, notes, events] = await Promise.all([
		listOrders(sql, 'purchase'),
		listOrders(sql, 'production'),
		listOrders(sql, 'sale'),
		stockNotes(sql),
		lastEvents(sql)
	]);
	const role = locals.person?.role;
	const day = today();
	const due = <T extends { dueOn: string | null; started: boolean; drafts: number }>(list: readonly T[]) =>
		list.filter((o) => !o.dueOn || o.dueOn <= day || o.started || o.drafts).slice(0, 6);
	return {
		today: day,
		empty: !events.length && can(role, 'write items'),
		groups: [
			{ area: 'inbound', title: 'To number and book in', rows: due(inbound), all: inbound.length },
			{ area: 'production', title: 'To make', rows: due(production), all: production.length },
			{ area: 'outbound', title: 'To ship', rows: due(outbound), all: outbound.length }
		],
		...notes,
		events: [...events]
	};
};
