import { redirect, type RequestEvent } from '@sveltejs/kit';
import { documentKind, documentPath, type Kind } from '../../core/document/kinds.ts';
import { can } from '../../core/people/can.ts';

import type { Sql } from '../database/connect.ts';
import { firmToday, listFor } from '../list/page.ts';
import { action, page, readJson } from '../request.ts';
import { itemNames } from '../setup/items.ts';
import { listJobs } from '../setup/jobs.ts';
import { listPartners, placeCodes } from '../setup/places.ts';
import { createDocument } from './create.ts';
import { documentList } from './list.ts';

/** The list of the documents of one kind, as an address asks it. */
export const documentListPage = (sql: Sql, event: RequestEvent, kind: Kind) =>
	page(event, 'read', async (who) => ({
		kind,
		today: await firmToday(sql),
		mayAdd: can(who.role, documentKind(kind).create),
		list: await listFor(sql, event, who, documentList(kind))
	}));

/** What the form for a new document offers to choose from. */
export const newDocumentPage = (sql: Sql, event: RequestEvent, kind: Kind) =>
	page(event, documentKind(kind).create, async () => {
		const { partner, place, line, job } = documentKind(kind);
		const [today, items, partners, places, jobs] = await Promise.all([
			firmToday(sql),
			itemNames(sql),
			partner ? listPartners(sql) : [],
			placeCodes(sql),
			job ? listJobs(sql) : []
		]);
		return {
			kind,
			today,
			items: items
				.filter((i) => !line.parts || i.made)
				.map(({ code, name, unit, decimals }) => ({ code, name, unit, decimals })),
			partners: partners.filter((p) => partner?.kinds.includes(p.kind)),
			places: places.filter((p) => !place.sites || !p.site).map((p) => p.code),
			jobs: jobs.filter((j) => !j.closedOn).map(({ code, name, partnerName }) => ({ code, name, partnerName }))
		};
	});

/** Makes a document of what the form says, and opens it. */
export async function createFromForm(sql: Sql, event: RequestEvent, kind: Kind) {
	const made = await action(documentKind(kind).create, async ({ who, typed }) => ({
		code: await createDocument(sql, who.name, {
			kind,
			code: typed.code?.trim() || null,
			partner: typed.partner || null,
			job: typed.job || null,
			place: typed.place || null,
			dueOn: typed.dueOn || null,
			note: typed.note || null,
			review: typed.review === 'yes',
			lines: readJson(typed.lines)
		})
	}))(event);
	if (!('code' in made)) return made;
	redirect(303, documentPath(kind, made.code));
}
