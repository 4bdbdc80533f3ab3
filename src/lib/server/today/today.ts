import type { Db } from '../database/connect.ts';
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
/** Lots and serials on hand that are stopped, and those that have reached the early notice of their item. */
export async function stockNotes(sql: Db, today: Day): Promise<{ stopped: StockNote[]; expiring: StockNote[] }> {
	const fields = sql`k.id, k.kind, k.number, i.name AS "itemName", i.code AS item, i.unit, trim_scale(b.qty)::text AS qty, b.places, k.expires_on AS "expiresOn", k.status`;
	const hand = sql`JOIN item i ON i.id = k.item_id CROSS JOIN LATERAL (SELECT sum(x.qty) AS qty, string_agg(p.code, ', ' ORDER BY p.code) AS places
		FROM balance x JOIN place p ON p.id = x.place_id WHERE x.mark_id = k.id AND x.qty > 0 AND NOT x.virtual) b`;
	// None that lives longer than the earliest notice there is need be looked at.
	const noticed = sql`SELECT m.id FROM mark m JOIN item x ON x.id = m.item_id WHERE m.expires_on <= ${today}::date + (SELECT greatest(30, max(notice_days)) FROM item) AND notice_on(m.expires_on, x.notice_days) <= ${today}::date`;
	const [stopped, expiring] = await Promise.all([
		sql<
			StockNote[]
		>`SELECT ${fields} FROM mark_now k ${hand} WHERE k.id IN (SELECT m.id FROM mark m WHERE m.status <> 'released' UNION SELECT c.id FROM mark m JOIN mark c ON c.parent_id = m.id WHERE m.status <> 'released') AND b.qty > 0 ORDER BY k.number LIMIT 20`,
		sql<
			StockNote[]
		>`SELECT ${fields} FROM mark_now k ${hand} WHERE k.id IN (SELECT n.id FROM (${noticed}) n UNION SELECT c.id FROM (${noticed}) n JOIN mark c ON c.parent_id = n.id AND c.expires_on IS NULL) AND b.qty > 0 ORDER BY k.expires_on, k.number LIMIT 20`
	]);
	return { stopped: [...stopped], expiring: [...expiring] };
}
