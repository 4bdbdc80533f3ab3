import { addDuration } from '../../core/dates/dates.ts';
import type { Db } from '../database/connect.ts';
import { like } from '../database/like.ts';

/** A number as the register lists it. */
export interface RegisterRow {
	id: string;
	kind: 'lot' | 'serial';
	number: string;
	lot: string | null;
	item: string;
	itemName: string;
	unit: string;
	qty: string;
	places: string | null;
	state: string;
	expiresOn: string | null;
	status: string;
	supplierLot: string | null;
}
/** What the register is narrowed to. */
export interface RegisterFilter {
	q?: string;
	item?: string;
	place?: string;
	kind?: string;
	/** on hand, gone, held, expiring */
	show?: string;
	/** today, where the firm is */
	today: string;
}
/** How many the register lists at once. */
export const PAGE = 200;

/**
 * A page of the register in the order of the numbers, from a key on: no offset is counted, so the thousandth page costs
 * what the first does.
 */
export async function registerPage(sql: Db, filter: RegisterFilter, after?: { number: string; id: string }) {
	const where = conditions(sql, filter, await isWide(sql, filter));
	return sql<RegisterRow[]>`
		WITH page AS MATERIALIZED (
			SELECT k.* FROM mark k WHERE k.kind <> 'unmarked' ${where}
				${after ? sql`AND (k.number COLLATE natural_order, k.id) > (${after.number} COLLATE natural_order, ${after.id}::bigint)` : sql``}
			ORDER BY k.number COLLATE natural_order, k.id LIMIT ${PAGE})
		SELECT k.id, k.kind, k.number, n.of_lot AS lot, i.code AS item, i.name AS "itemName", i.unit, k.supplier_lot AS "supplierLot",
			coalesce(trim_scale(b.qty), 0)::text AS qty, b.places, n.expires_on AS "expiresOn", n.status,
			CASE WHEN b.qty > 0 THEN 'on hand' ELSE coalesce((SELECT CASE p.code WHEN '@customer' THEN 'shipped' WHEN '@process' THEN 'used' WHEN '@scrap' THEN 'scrapped'
				WHEN '@job' THEN 'issued' WHEN '@adjust' THEN 'adjusted' ELSE 'sent back' END FROM effective_movement m JOIN place p ON p.id = m.to_place AND p.virtual
				WHERE m.mark_id = k.id ORDER BY m.at DESC, m.id DESC LIMIT 1),
				(SELECT CASE WHEN count(*) > 0 THEN count(*) || ' serials' END FROM mark c WHERE c.parent_id = k.id), 'started') END AS state
		FROM page k JOIN mark_now n ON n.id = k.id JOIN item i ON i.id = k.item_id
		LEFT JOIN LATERAL (SELECT sum(x.qty) AS qty, string_agg(p.code, ', ' ORDER BY p.code) AS places FROM balance x JOIN place p ON p.id = x.place_id
			WHERE x.mark_id = k.id AND NOT x.virtual AND x.qty > 0) b ON true
		ORDER BY k.number COLLATE natural_order, k.id`;
}

/** How many numbers the filter leaves. */
export async function registerCount(sql: Db, filter: RegisterFilter): Promise<number> {
	const [{ n }] = await sql<
		{ n: number }[]
	>`SELECT count(*)::int AS n FROM mark k WHERE k.kind <> 'unmarked' ${conditions(sql, filter, await isWide(sql, filter))}`;
	return n;
}

/** Thirty days from today: what expires until then is expiring. */
const soon = (f: RegisterFilter) => addDuration(f.today, 'P30D');
const patternOf = (f: RegisterFilter) => `%${like(f.q?.trim().toLowerCase().slice(0, 100) ?? '')}%`;
const matches = (sql: Db, pattern: string) => sql`
	SELECT id FROM mark WHERE lower(number) LIKE ${pattern}
	UNION ALL SELECT id FROM mark WHERE lower(supplier_lot) LIKE ${pattern}
	UNION ALL SELECT id FROM mark WHERE lower(supplier_serial) LIKE ${pattern}
	UNION ALL SELECT mark_id FROM mark_alias WHERE lower(number) LIKE ${pattern}
	UNION ALL SELECT m.id FROM item i JOIN mark m ON m.item_id = i.id WHERE lower(i.code || ' ' || i.name) LIKE ${pattern}`;

/** Does the text fit so much that walking the list in its order finds a page sooner than sorting all that fits? */
async function isWide(sql: Db, f: RegisterFilter): Promise<boolean> {
	if (!f.q?.trim()) return false;
	if (f.q.trim().length < 3) return true; // too short for the index of trigrams
	const [{ n }] = await sql<
		{ n: number }[]
	>`SELECT count(*)::int AS n FROM (SELECT 1 FROM (${matches(sql, patternOf(f))}) x LIMIT 2001) y`;
	return n > 2000;
}

function conditions(sql: Db, f: RegisterFilter, wide: boolean) {
	const pattern = patternOf(f);
	const text = !f.q?.trim()
		? sql``
		: wide
			? sql`AND (lower(k.number) LIKE ${pattern} OR lower(k.supplier_lot) LIKE ${pattern} OR lower(k.supplier_serial) LIKE ${pattern}
				OR k.id IN (SELECT a.mark_id FROM mark_alias a WHERE lower(a.number) LIKE ${pattern})
				OR k.item_id IN (SELECT i.id FROM item i WHERE lower(i.code || ' ' || i.name) LIKE ${pattern}))`
			: sql`AND k.id IN (${matches(sql, pattern)})`;
	return sql`
		${text}
		${f.item ? sql`AND k.item_id = (SELECT i.id FROM item i WHERE i.code = ${f.item})` : sql``}
		${f.kind === 'lot' || f.kind === 'serial' ? sql`AND k.kind = ${f.kind}` : sql``}
		${f.place ? sql`AND k.id IN (SELECT b.mark_id FROM balance b WHERE b.qty > 0 AND NOT b.virtual AND b.place_id = ANY(ARRAY(SELECT p.id FROM place p WHERE p.code = ${f.place} UNION SELECT p.id FROM place s JOIN place p ON p.site_id = s.id WHERE s.code = ${f.place})))` : sql``}
		${f.show === 'on hand' ? sql`AND EXISTS (SELECT 1 FROM balance b WHERE b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual)` : sql``}
		${f.show === 'gone' ? sql`AND NOT EXISTS (SELECT 1 FROM balance b WHERE b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual)` : sql``}
		${f.show === 'held' ? sql`AND (k.status <> 'released' OR k.parent_id IN (SELECT l.id FROM mark l WHERE l.status <> 'released'))` : sql``}
		${f.show === 'expiring' ? sql`AND k.expires_on <= ${soon(f)}::date AND EXISTS (SELECT 1 FROM balance b WHERE b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual)` : sql``}`;
}
