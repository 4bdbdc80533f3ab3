import type { Db } from '../database/connect.ts';
import type { Fragment } from '../database/fragment.ts';
import { addDuration, type Day } from '../../core/dates/dates.ts';
import { DOCUMENT_KINDS, DOCUMENT_NAMES, documentKind, type Kind } from '../../core/document/kinds.ts';
import { can, type Role } from '../../core/people/can.ts';
import { dayIn, type Zone } from '../../core/time/clock.ts';

/** What waits for a person, by area: the numbers on the rail. Due is what is due today where it happens. */
export async function waiting(sql: Db, role: Role, now = new Date()): Promise<Record<string, number>> {
	const rows = await sql<{ kind: Kind; dueOn: Day; zone: Zone; n: number }[]>`
		SELECT o.kind, o.due_on AS "dueOn", coalesce(l.zone, s.zone, f.zone) AS zone, count(*)::int AS n
		FROM firm f CROSS JOIN orders o LEFT JOIN place l ON l.id = o.place_id LEFT JOIN place s ON s.id = l.site_id
		WHERE o.closed_at IS NULL AND o.due_on <= ${addDuration(now.toISOString().slice(0, 10), 'P1D')}::date GROUP BY 1, 2, 3`;
	const counts: Record<string, number> = Object.fromEntries(DOCUMENT_NAMES.map((k) => [DOCUMENT_KINDS[k].area, 0]));
	for (const r of rows) {
		const kind = documentKind(r.kind);
		if (r.dueOn <= dayIn(r.zone, now) && can(role, kind.right)) counts[kind.area] += r.n;
	}
	return counts;
}

/** How many documents of each kind are open: not closed, or closed with something to settle. */
export async function openDocuments(sql: Db): Promise<Map<Kind, number>> {
	const rows = await sql<{ kind: Kind; n: number }[]>`
		SELECT kind, count(*)::int AS n FROM (SELECT o.kind FROM orders o WHERE o.closed_at IS NULL
			UNION ALL SELECT o.kind FROM orders o WHERE o.closed_at IS NOT NULL AND o.id IN (SELECT t.order_id FROM todo t WHERE t.done_at IS NULL)) x GROUP BY kind`;
	return new Map(rows.map((r) => [r.kind, r.n]));
}

interface StockNote {
	id: string;
	kind: 'lot' | 'serial';
	number: string;
	itemName: string;
	item: string;
	unit: string;
	qty: string;
	places: string;
	expiresOn: string | null;
	status: string;
}
/** How many numbers of each are shown. */
const SHOWN = 20;
/** Up to how many it is quicker to look up each than to gather all that is on hand. */
const LITTLE = 20_000;
/**
 * Lots and serials on hand that are stopped, and those that have reached the early notice of their item.
 * @param little up to how many numbers each is looked up by itself
 */
export async function stockNotes(
	sql: Db,
	today: Day,
	little = LITTLE
): Promise<{ stopped: StockNote[]; expiring: StockNote[] }> {
	// What shows is found first, by number and date alone; only of that little the rest is read.
	const shown = (found: Fragment, order: Fragment, last: Fragment) => sql<StockNote[]>`
		WITH found AS MATERIALIZED (${found}),
		much AS MATERIALIZED (SELECT count(*) > ${little} AS so FROM found),
		few AS MATERIALIZED (SELECT f.id FROM (
				SELECT * FROM found l WHERE NOT (SELECT so FROM much) AND (SELECT true FROM balance x WHERE x.mark_id = l.id AND x.qty > 0 AND NOT x.virtual LIMIT 1)
				UNION ALL SELECT * FROM found g WHERE (SELECT so FROM much) AND g.id IN (SELECT x.mark_id FROM balance x WHERE x.qty > 0 AND NOT x.virtual)) f
			ORDER BY ${order} LIMIT ${SHOWN})
		SELECT k.id, k.kind, k.number, i.name AS "itemName", i.code AS item, i.unit, trim_scale(b.qty)::text AS qty, b.places, k.expires_on AS "expiresOn", k.status
		FROM few CROSS JOIN LATERAL (SELECT * FROM mark_now n WHERE n.id = few.id OFFSET 0) k JOIN item i ON i.id = k.item_id
		CROSS JOIN LATERAL (SELECT sum(x.qty) AS qty, string_agg(p.code, ', ' ORDER BY p.code) AS places
			FROM balance x JOIN place p ON p.id = x.place_id WHERE x.mark_id = k.id AND x.qty > 0 AND NOT x.virtual) b
		ORDER BY ${last}`;
	const [stopped, expiring] = await Promise.all([
		shown(
			sql`SELECT m.id, m.number FROM mark m WHERE m.status <> 'released' UNION SELECT c.id, c.number FROM mark m JOIN mark c ON c.parent_id = m.id WHERE m.status <> 'released'`,
			sql`f.number`,
			sql`k.number`
		),
		// None that lives longer than the earliest notice there is need be looked at.
		shown(
			sql`WITH noticed AS MATERIALIZED (SELECT m.id, m.number, m.expires_on FROM mark m JOIN item x ON x.id = m.item_id
				WHERE m.expires_on <= ${today}::date + (SELECT greatest(30, max(notice_days)) FROM item) AND notice_on(m.expires_on, x.notice_days) <= ${today}::date)
			SELECT id, number, expires_on FROM noticed UNION ALL SELECT c.id, c.number, n.expires_on FROM noticed n JOIN mark c ON c.parent_id = n.id AND c.expires_on IS NULL`,
			sql`f.expires_on, f.number`,
			sql`k.expires_on, k.number`
		)
	]);
	return { stopped: [...stopped], expiring: [...expiring] };
}
