import type { Db } from '../database/connect.ts';
import { nearNumbers } from './near.ts';

/** Lots and serials that a scanned text names: by their number, or by one that they had before and that a label may still carry. */
export const marksCalled = (sql: Db, number: string, gtin: string | null = null) => sql<
	{ id: string; itemId: string }[]
>`
	SELECT k.id, k.item_id AS "itemId" FROM mark k JOIN item i ON i.id = k.item_id
	WHERE k.kind <> 'unmarked' AND (k.looks = looks(${number}) AND k.number = ${number} OR k.id IN (SELECT a.mark_id FROM mark_alias a WHERE a.number = ${number}))
		AND (${gtin}::text IS NULL OR i.gtin = ${gtin}) ORDER BY k.number = ${number} DESC, k.id DESC LIMIT 50`;

/** Lots and serials of some items that are called so now. */
export const calledNow = (sql: Db, itemIds: readonly string[], number: string) => sql<
	{ id: string; kind: 'lot' | 'serial' }[]
>`
	SELECT k.id, k.kind FROM mark k WHERE k.looks = looks(${number}) AND k.number = ${number}
		AND k.item_id = ANY(${[...new Set(itemIds)]}::bigint[]) AND k.kind <> 'unmarked'`;

/** What is said of a number that nobody knows. */
export async function unknownNumber(sql: Db, number: string): Promise<string> {
	const near = (await nearNumbers(sql, number, 3)).filter((n) => n.slips <= 2).map((n) => n.number);
	return `No lot or serial is called ${number.slice(0, 60)}.${near.length ? ` Was it ${near.join(' or ')}?` : ''} Check the label; it may be another firm’s.`;
}

/** A place where some marks lie, one that is not in transit before one that is; null where they lie nowhere. */
export async function liesAt(sql: Db, marks: readonly string[]): Promise<{ place: string; transit: boolean } | null> {
	const [at] = await sql<{ place: string; transit: boolean }[]>`
		SELECT p.code AS place, p.transit FROM balance b JOIN place p ON p.id = b.place_id WHERE b.mark_id = ANY(${[...marks]}::bigint[]) AND b.qty > 0 AND NOT b.virtual ORDER BY p.transit, p.code LIMIT 1`;
	return at ?? null;
}
