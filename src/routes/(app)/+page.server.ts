import { readView } from '$lib/core/list/list';
import { DOCUMENT_NAMES, documentKind } from '$lib/core/document/kinds';
import { can } from '$lib/core/people/can';
import { dayIn } from '$lib/core/time/clock';
import { pool } from '$lib/server/database/pool';
import { documentList } from '$lib/server/document/list';
import { listPage } from '$lib/server/list/read';
import { firmZone } from '$lib/server/marks/zone';
import { page } from '$lib/server/request';
import { lastEvents, stockNotes } from '$lib/server/today/today';
import type { PageServerLoad } from './$types';

/** How many open documents of a kind are looked through for what waits today. */
const LOOKED_AT = 200;

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const sql = pool();
		const zone = await firmZone(sql);
		const today = dayIn(zone, new Date());
		const [lists, notes, events] = await Promise.all([
			Promise.all(
				DOCUMENT_NAMES.map((kind) => {
					const source = documentList(kind);
					const view = { ...readView(source, new URLSearchParams()), size: LOOKED_AT };
					return listPage(sql, source, view, { today, login: who.name });
				})
			),
			stockNotes(sql, today),
			lastEvents(sql, zone)
		]);
		const groups = DOCUMENT_NAMES.map((kind, i) => {
			const { path, words } = documentKind(kind);
			const due = lists[i].rows.filter((o) => !o.due || o.due <= today || o.state !== 'open');
			return { path, title: words.today, rows: due.slice(0, 6), all: lists[i].count };
		});
		return { today, empty: !events.length && can(who.role, 'write items'), groups, ...notes, events };
	});
