import { readView } from '$lib/core/list/list';
import { DOCUMENT_NAMES, documentKind } from '$lib/core/document/kinds';
import { can } from '$lib/core/people/can';
import { pool } from '$lib/server/database/pool';
import { documentList } from '$lib/server/document/list';
import { eventList } from '$lib/server/ledger/list';
import type { ListSource } from '$lib/server/list/source';
import { firmToday } from '$lib/server/list/page';
import { listRows } from '$lib/server/list/read';
import { unitsWaiting } from '$lib/server/production/review';
import { page } from '$lib/server/request';
import { openDocuments, stockNotes } from '$lib/server/today/today';
import type { PageServerLoad } from './$types';

/** How many documents of a kind that wait today are shown, and how many acts. */
const [WAITING, ACTS] = [6, 8];

export const load: PageServerLoad = (event) =>
	page(event, 'read', async (who) => {
		const sql = pool();
		const today = await firmToday(sql);
		const first = async (source: ListSource, size: number, asked: Record<string, string> = {}) =>
			(await listRows(sql, source, { ...readView(source, new URLSearchParams(asked)), size }, today)).rows;
		const all = await openDocuments(sql);
		const [groups, notes, last, units] = await Promise.all([
			Promise.all(
				DOCUMENT_NAMES.map(async (kind) => {
					const { path, words } = documentKind(kind);
					const rows = all.has(kind) ? await first(documentList(kind), WAITING, { which: 'waiting' }) : [];
					return { path, title: words.today, rows, all: all.get(kind) ?? 0 };
				})
			),
			stockNotes(sql, today),
			first(eventList, ACTS),
			can(who.role, 'book production') ? unitsWaiting(sql, can(who.role, 'review units')) : 0
		]);
		return { today, empty: !last.length && can(who.role, 'write items'), groups, units, ...notes, last };
	});
