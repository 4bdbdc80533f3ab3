import { DOCUMENT_NAMES, documentKind } from '$lib/core/document/kinds';
import { can } from '$lib/core/people/can';
import { dayIn } from '$lib/core/time/clock';
import { pool } from '$lib/server/database/pool';
import { listOrders } from '$lib/server/document/orders';
import { firmZone } from '$lib/server/marks/zone';
import { page } from '$lib/server/request';
import { lastEvents, stockNotes } from '$lib/server/today/today';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const sql = pool();
		const zone = await firmZone(sql);
		const today = dayIn(zone, new Date());
		const [lists, notes, events] = await Promise.all([
			Promise.all(DOCUMENT_NAMES.map((kind) => listOrders(sql, kind))),
			stockNotes(sql, today),
			lastEvents(sql, zone)
		]);
		const groups = DOCUMENT_NAMES.map((kind, i) => {
			const { path, words } = documentKind(kind);
			const due = lists[i].filter((o) => !o.dueOn || o.dueOn <= today || o.started || o.drafts);
			return { path, title: words.today, list: words.list, rows: due.slice(0, 6), all: lists[i].length };
		});
		return { today, empty: !events.length && can(who.role, 'write items'), groups, ...notes, events };
	});
