import type { StoppedPart } from '../../core/checks/catalogue.ts';
import type { About } from '../../core/checks/check.ts';
import { group } from '../../core/group/group.ts';
import type { Db } from '../database/connect.ts';

/*
 * Parts in units now: what was used and not taken out again, on all levels. Unmarked stock is not followed.
 */

/** Runs that made a mark, or build it. */
const runsOf = (sql: Db, mark: ReturnType<Db>) => sql`(
	SELECT m.run_id AS run FROM effective_movement m WHERE m.mark_id = ${mark} AND m.role = 'make'
	UNION SELECT r.id FROM run r WHERE r.unit_mark = ${mark})`;
/** Is so much of a mark in a run now? A condition. */
const isIn = (sql: Db, run: ReturnType<Db>, mark: ReturnType<Db>) => sql`
	(SELECT sum(CASE u.role WHEN 'use' THEN u.qty ELSE -u.qty END) FROM effective_movement u WHERE u.run_id = ${run} AND u.mark_id = ${mark} AND u.role IN ('use', 'detach')) > 0`;
const isMarked = (sql: Db, mark: ReturnType<Db>) =>
	sql`EXISTS (SELECT 1 FROM mark k WHERE k.id = ${mark} AND k.kind <> 'unmarked')`;

/**
 * Of some marks, by their ids: what in them is on hold, quarantined or rejected, itself or by its lot. One statement: down to
 * all that is in them, each looked at once, then up again from the few that are stopped.
 */
export async function stoppedIn(sql: Db, marks: readonly string[]): Promise<Map<string, StoppedPart[]>> {
	const ids = sql`${[...marks]}::bigint[]`;
	const rows = await sql<(About & { of: string; mark: string; status: string })[]>`
		WITH RECURSIVE inside(id) AS (
			SELECT id FROM unnest(${ids}) id
			UNION
			SELECT u.mark_id FROM inside i CROSS JOIN LATERAL ${runsOf(sql, sql`i.id`)} made
				CROSS JOIN LATERAL (SELECT DISTINCT m.mark_id FROM effective_movement m WHERE m.run_id = made.run AND m.role = 'use') u
				WHERE ${isMarked(sql, sql`u.mark_id`)} AND ${isIn(sql, sql`made.run`, sql`u.mark_id`)}),
		stopped AS (SELECT k.id, k.kind, k.number, k.status FROM inside JOIN mark_now k USING (id) WHERE k.status <> 'released'),
		up(part, id) AS (
			SELECT id, id FROM stopped
			UNION
			SELECT up.part, made.id FROM up CROSS JOIN LATERAL (SELECT DISTINCT m.run_id AS run FROM effective_movement m WHERE m.mark_id = up.id AND m.role = 'use') used
				CROSS JOIN LATERAL (SELECT m.mark_id AS id FROM effective_movement m WHERE m.run_id = used.run AND m.role = 'make'
					UNION SELECT r.unit_mark FROM run r WHERE r.id = used.run AND r.unit_mark IS NOT NULL) made
				WHERE made.id IN (SELECT id FROM inside) AND ${isIn(sql, sql`used.run`, sql`up.id`)})
		SELECT up.id AS of, s.id AS mark, s.kind, s.number, s.status FROM up JOIN stopped s ON s.id = up.part
		WHERE up.id <> up.part AND up.id = ANY(${ids}) ORDER BY up.id, s.id`;
	return new Map(
		[...group([...rows], (r) => r.of)].map(([of, list]) => [
			of,
			list.map(({ mark, kind, number, status }) => ({ mark, status, about: { kind, number } }))
		])
	);
}

/** Something that contains a mark, and what of it is where. */
export interface Container {
	mark: string;
	kind: 'lot' | 'serial';
	number: string;
	item: string;
	/** its own, without that of its lot */
	status: string;
	/** id of the lot that it belongs to */
	lot: string | null;
	/** some of it is on hand, in process or in transit */
	here: boolean;
	/** what of it has gone: places outside, with who has it where that is a customer */
	gone: { at: string; customer: string | null }[];
}

/**
 * Everything that some marks are in now, on all levels, with the serials of lots among it, and these marks themselves. What is
 * built into something finished is neither here nor gone by itself: what it is built into stands beside.
 * @param marks their ids
 */
export const containersOf = (sql: Db, marks: readonly string[]): Promise<Container[]> =>
	sql<Container[]>`
		WITH RECURSIVE up(id) AS (
			SELECT k.id FROM mark k WHERE k.id = ANY(${[...marks]}::bigint[]) OR k.parent_id = ANY(${[...marks]}::bigint[])
			UNION
			SELECT made.id FROM up CROSS JOIN LATERAL (SELECT DISTINCT m.run_id AS run FROM effective_movement m WHERE m.mark_id = up.id AND m.role = 'use') used
				CROSS JOIN LATERAL (SELECT m.mark_id AS id FROM effective_movement m WHERE m.run_id = used.run AND m.role = 'make'
					UNION SELECT r.unit_mark FROM run r WHERE r.id = used.run AND r.unit_mark IS NOT NULL) made
				WHERE ${isMarked(sql, sql`made.id`)} AND ${isIn(sql, sql`used.run`, sql`up.id`)})
		SELECT k.id AS mark, k.kind, k.number, i.code AS item, k.own_status AS status, k.parent_id AS lot,
			-- On a shelf or on its way; begun and not finished; or in a run that nothing has come out of.
			coalesce(at.here, false) OR EXISTS (SELECT 1 FROM run r WHERE r.unit_mark = k.id AND ${nothingMade(sql, sql`r.id`)})
				OR EXISTS (SELECT 1 FROM effective_movement m WHERE m.mark_id = k.id AND m.role = 'use' AND ${nothingMade(sql, sql`m.run_id`)} AND ${isIn(sql, sql`m.run_id`, sql`k.id`)}) AS here,
			coalesce(at.gone, '[]') AS gone
		FROM (SELECT DISTINCT id FROM up) u JOIN mark_now k ON k.id = u.id JOIN item i ON i.id = k.item_id
		LEFT JOIN LATERAL (SELECT bool_or(NOT b.virtual) AS here,
				json_agg(json_build_object('at', p.code, 'customer', q.code)) FILTER (WHERE b.virtual AND p.code NOT IN ('@process', '@supplier')) AS gone
			FROM balance b JOIN place p ON p.id = b.place_id
			LEFT JOIN LATERAL (SELECT c.code FROM customer_has h JOIN partner c ON c.id = h.partner_id WHERE p.code = '@customer' AND h.mark_id = k.id AND h.qty > 0) q ON true
			WHERE b.mark_id = k.id AND b.qty > 0) at ON true
		ORDER BY i.code, k.number COLLATE natural_order, k.id`;
const nothingMade = (sql: Db, run: ReturnType<Db>) =>
	sql`NOT EXISTS (SELECT 1 FROM effective_movement o WHERE o.run_id = ${run} AND o.role = 'make')`;
