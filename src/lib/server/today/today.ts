import type { Db } from '../database/connect.ts';
import { can, type Role } from '../../core/people/can.ts';

/** What waits for a person, by area: the numbers on the rail. */
export async function waiting(sql: Db, role: Role): Promise<{ inbound: number; production: number; outbound: number }> {
	const [n] = await sql<{ inbound: number; production: number; outbound: number }[]>`
		SELECT count(*) FILTER (WHERE kind = 'purchase' AND due_on <= current_date)::int AS inbound,
			count(*) FILTER (WHERE kind = 'production' AND due_on <= current_date)::int AS production,
			count(*) FILTER (WHERE kind = 'sale' AND due_on <= current_date)::int AS outbound
		FROM orders WHERE closed_at IS NULL`;
	return {
		inbound: can(role, 'book inbound') ? n.inbound : 0,
		production: can(role, 'book production') ? n.production : 0,
		outbound: can(role, 'book outbound') ? n.outbound : 0
	};
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
/** Lots and serials on hand that are stopped, and those that expire within thirty days. */
export async function stockNotes(sql: Db): Promise<{ stopped: StockNote[]; expiring: StockNote[] }> {
	const fields = sql`k.id, k.kind, k.number, i.name AS "itemName", i.code AS item, i.unit, trim_scale(b.qty)::text AS qty, b.places, k.expires_on AS "expiresOn", k.status`;
	const hand = sql`JOIN item i ON i.id = k.item_id CROSS JOIN LATERAL (SELECT sum(x.qty) AS qty, string_agg(p.code, ', ' ORDER BY p.code) AS places
		FROM balance x JOIN place p ON p.id = x.place_id WHERE x.mark_id = k.id AND x.qty > 0 AND NOT x.virtual) b`;
	const [stopped, expiring] = await Promise.all([
		sql<
			StockNote[]
		>`SELECT ${fields} FROM mark k ${hand} WHERE k.status <> 'released' AND b.qty > 0 ORDER BY k.number LIMIT 20`,
		sql<
			StockNote[]
		>`SELECT ${fields} FROM mark k ${hand} WHERE k.expires_on <= current_date + 30 AND b.qty > 0 ORDER BY k.expires_on, k.number LIMIT 20`
	]);
	return { stopped: [...stopped], expiring: [...expiring] };
}

/** The last events of the ledger. */
export const lastEvents = (sql: Db) => sql<
	{
		id: string;
		kind: string;
		at: string;
		by: string;
		document: string | null;
		partner: string | null;
		movements: number;
		undone: boolean;
	}[]
>`
	SELECT e.id, e.kind, to_char(e.recorded_at AT TIME ZONE 'UTC', 'YYYY-MM-DD HH24:MI') AS at, coalesce(n.name, e.recorded_by) AS by, e.document, q.name AS partner,
		(SELECT count(*)::int FROM movement m WHERE m.event_id = e.id) AS movements, EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id) AS undone
	FROM event e LEFT JOIN person n ON n.login = e.recorded_by LEFT JOIN partner q ON q.id = e.partner_id ORDER BY e.id DESC LIMIT 8`;
