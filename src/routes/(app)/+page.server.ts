import { readView } from '$lib/core/list/list';
import { DOCUMENT_NAMES, documentKind } from '$lib/core/document/kinds';
import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { documentList } from '$lib/server/document/list';
import { eventList } from '$lib/server/ledger/list';
import type { ListSource } from '$lib/server/list/source';
import { firmToday } from '$lib/server/list/page';
import { listPage } from '$lib/server/list/read';
import { unitsWaiting } from '$lib/server/production/review';
import { page } from '$lib/server/request';
import { stockNotes } from '$lib/server/today/today';
import type { PageServerLoad } from './$types';

/** How many open documents of a kind are looked through for what waits today; how many acts are shown. */
const [LOOKED_AT, ACTS] = [200, 8];

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const sql = pool();
		const today = await firmToday(sql);
		const first = (source: ListSource, size: number) =>
			listPage(sql, source, { ...readView(source, new URLSearchParams()), size }, { today, login: who.name });
		const [lists, notes, last, units] = await Promise.all([
			Promise.all(DOCUMENT_NAMES.map((kind) => first(documentList(kind), LOOKED_AT))),
			stockNotes(sql, today),
			first(eventList, ACTS),
			can(who.role, 'book production') ? unitsWaiting(sql, can(who.role, 'review units')) : 0
		]);
		const groups = DOCUMENT_NAMES.map((kind, i) => {
			const { path, words } = documentKind(kind);
			const due = lists[i].rows.filter((o) => !o.due || o.due <= today || o.state !== 'open');
			return { path, title: words.today, rows: due.slice(0, 6), all: lists[i].count, more: lists[i].more };
		});
		return { today, empty: !last.count && can(who.role, 'write items'), groups, units, ...notes, last: last.rows };
	});
