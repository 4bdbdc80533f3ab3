import { redirect, type RequestEvent } from '@sveltejs/kit';
import { documentKind, documentPath, type Kind } from '../../core/document/kinds.ts';
import { can } from '../../core/people/can.ts';
import type { Sql } from '../database/connect.ts';
import { firmToday, listFor } from '../list/page.ts';
import { action, idOf, page, readJson } from '../request.ts';
import { itemNames } from '../setup/items.ts';
import { listJobs } from '../setup/jobs.ts';
import { listPartners, placeCodes } from '../setup/places.ts';
import { openReasons } from './reasons.ts';
import { openWays } from '../setup/ways.ts';
import { createDocument } from './create.ts';
import { enterFirst, firstOf } from './first.ts';
import { documentList } from './list.ts';

/** The list of the documents of one kind, as an address asks it. */
export const documentListPage = (sql: Sql, event: RequestEvent, kind: Kind) =>
	page(event, 'read', async (who) => ({
		kind,
		today: await firmToday(sql),
		mayAdd: can(who.role, documentKind(kind).create),
		list: await listFor(sql, event, who, documentList(kind))
	}));

/** Among how many of the last events a person's own are looked for. */
const LOOKS_BACK = 1000;
/**
 * The place that is proposed for a new document, empty where a person has to say: of what arrives the dock of the person's
 * site, else that site, or where the person made the last one of the kind. Their site is that of what they booked last, else
 * of the last document that they made, or the only one there is.
 */
export async function proposedPlace(sql: Sql, kind: Kind, by: string): Promise<string> {
	const { place, steps, reasons, area } = documentKind(kind);
	// Where something was found, or is missing, is never guessed.
	if (reasons && area === 'stock') return '';
	const [known] = await sql<{ site: string | null; last: string | null; dock: string | null }[]>`
		WITH booked AS (SELECT e.id, e.order_id FROM (SELECT id, order_id, recorded_by FROM event ORDER BY id DESC LIMIT ${LOOKS_BACK}) e WHERE e.recorded_by = ${by}),
		mine AS (SELECT coalesce(
			(SELECT coalesce(l.site_id, l.id) FROM booked b JOIN orders o ON o.id = b.order_id JOIN place l ON l.id = o.place_id ORDER BY b.id DESC LIMIT 1),
			(SELECT coalesce(l.site_id, l.id) FROM orders o JOIN place l ON l.id = o.place_id WHERE o.created_by = ${by} ORDER BY o.id DESC LIMIT 1)) AS id),
		sites AS (SELECT p.id FROM place p WHERE p.site_id IS NULL AND NOT p.virtual AND NOT p.transit),
		site AS (SELECT p.id, p.code FROM place p WHERE p.id = coalesce((SELECT id FROM mine), (SELECT min(id) FROM sites HAVING count(*) = 1)))
		SELECT (SELECT code FROM site) AS site,
			(SELECT l.code FROM orders o JOIN place l ON l.id = o.place_id WHERE o.kind = ${kind} AND o.created_by = ${by} ORDER BY o.id DESC LIMIT 1) AS last,
			(SELECT d.code FROM place d JOIN site ON site.id = d.site_id WHERE d.dock ORDER BY d.code COLLATE natural_order LIMIT 1) AS dock`;
	if (place.sites) return known.site ?? '';
	return (steps.goods === 'receipt' || steps.goods === 'customer return' ? known.dock : known.last) ?? '';
}

/** What the form for a new document offers to choose from. */
export const newDocumentPage = (sql: Sql, event: RequestEvent, kind: Kind) =>
	page(event, documentKind(kind).create, async (who) => {
		const { partner, place, to, line, job, fromSupplier, reasons } = documentKind(kind);
		const [today, items, partners, places, jobs, proposed, ways, why] = await Promise.all([
			firmToday(sql),
			itemNames(sql),
			partner ? listPartners(sql) : [],
			placeCodes(sql),
			job ? listJobs(sql) : [],
			proposedPlace(sql, kind, who.name),
			documentKind(kind).sent ? openWays(sql) : [],
			reasons ? openReasons(sql, reasons) : []
		]);
		return {
			kind,
			today,
			items: items
				.filter((i) => line.inputs !== 'parts list' || i.made || i.tracking === 'lot')
				.filter((i) => line.inputs !== 'content' || i.content)
				.map(({ code, name, unit, decimals, content, tracking, made }) => ({
					code,
					name,
					unit,
					decimals,
					content,
					tracking,
					made
				})),
			from: event.url.searchParams.get('from') ?? '',
			ways: [...ways],
			reasons: [...why],
			first: reasons ? await firstOf(sql, kind, event.url) : null,
			proposed,
			partners: partners.filter((p) => partner?.kinds.includes(p.kind)),
			// What is bought may be bought for one of them.
			customers: fromSupplier ? partners.filter((p) => p.kind !== 'supplier') : [],
			places: places.filter((p) => !place.sites || !p.site).map((p) => p.code),
			targets: to ? places.map((p) => p.code) : [],
			jobs: jobs.filter((j) => !j.closedOn).map(({ code, name, partnerName }) => ({ code, name, partnerName }))
		};
	});

/** Makes a document of what the form says, and opens it. */
export async function createFromForm(sql: Sql, event: RequestEvent, kind: Kind) {
	const made = await action(documentKind(kind).create, async ({ who, typed }) => ({
		by: who.name,
		first: { mark: idOf(typed.mark), event: idOf(typed.event) },
		code: await createDocument(sql, who.name, {
			kind,
			code: typed.code?.trim() || null,
			partner: typed.partner || null,
			job: typed.job || null,
			place: typed.place || null,
			to: typed.to || null,
			reason: typed.reason || null,
			dueOn: typed.dueOn || null,
			note: typed.note || null,
			review: typed.review === 'yes',
			from: typed.from || null,
			way: typed.way || null,
			theirs: typed.theirs === 'yes',
			lines: readJson(typed.lines)
		})
	}))(event);
	if (!('code' in made)) return made;
	if (documentKind(kind).scans === 'stock') await enterFirst(sql, made.by, made.code, made.first);
	redirect(303, documentPath(kind, made.code));
}
