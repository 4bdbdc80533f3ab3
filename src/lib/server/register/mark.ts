import type { Db } from '../database/connect.ts';
import { addDuration, sayDuration, showDay } from '../../core/dates/dates.ts';
import { fileOf, showFact, type Fact, type Facts } from '../../core/facts/fact.ts';
import { listFacts } from '../setup/facts.ts';

export interface MarkPage {
	id: string;
	kind: 'lot' | 'serial';
	number: string;
	item: string;
	itemName: string;
	unit: string;
	decimals: number;
	lot: { id: string; number: string } | null;
	supplierLot: string | null;
	supplierSerial: string | null;
	/** the firm's own facts, each with who recorded it and when */
	facts: RecordedFact[];
	/** "until 3 Mar 2028 (shipped 3 Mar 2026 + 24 months)"; empty before it is shipped, or without one */
	warranty: string;
	madeOn: string | null;
	expiresOn: string | null;
	status: string;
	aliases: string[];
	serials: number;
	where: { place: string; virtual: boolean; qty: string; partner: string | null }[];
	life: LifeEvent[];
	madeFrom: Link[];
	wentInto: Link[];
}
export interface RecordedFact {
	code: string;
	name: string;
	/** as people read it */
	value: string;
	/** SHA-256 of a fact that is a file */
	file: string | null;
	by: string;
	at: string;
	event: string;
}
export interface LifeEvent {
	id: string;
	key: string;
	kind: string;
	at: string;
	recordedAt: string;
	by: string;
	document: string | null;
	order: { code: string; kind: string } | null;
	partner: string | null;
	reason: string | null;
	undone: boolean;
	undoes: string | null;
	qty: string | null;
	from: string | null;
	to: string | null;
	role: string | null;
	run: string | null;
	change: string | null;
}
export interface Link {
	id: string;
	kind: 'lot' | 'serial' | 'unmarked';
	number: string | null;
	item: string;
	itemName: string;
	unit: string;
	qty: string;
	run: string;
	pooled: boolean;
	at: string;
	role: 'use' | 'detach' | 'make';
}
const stamp = 'YYYY-MM-DD HH24:MI';
export const MOST_LINKS = 500;

/** Everything about one lot or serial; null when there is none with that id. */
export async function markPage(sql: Db, id: string): Promise<MarkPage | null> {
	const [mark] = await sql<
		(Omit<MarkPage, 'facts' | 'warranty'> & {
			lotId: string | null;
			lotNo: string | null;
			values: Facts;
			lasts: string | null;
		})[]
	>`
		SELECT k.id, k.kind, k.number, i.code AS item, i.name AS "itemName", i.unit, i.decimals, l.id AS "lotId", l.number AS "lotNo",
			k.supplier_lot AS "supplierLot", k.supplier_serial AS "supplierSerial", k.facts AS values, i.warranty AS lasts, k.made_on AS "madeOn", coalesce(k.expires_on, l.expires_on) AS "expiresOn", k.status,
			ARRAY(SELECT number FROM mark_alias a WHERE a.mark_id = k.id) AS aliases, (SELECT count(*)::int FROM mark c WHERE c.parent_id = k.id) AS serials
		FROM mark k JOIN item i ON i.id = k.item_id LEFT JOIN mark l ON l.id = k.parent_id WHERE k.id = ${id} AND k.kind <> 'unmarked'`;
	if (!mark) return null;
	mark.lot = mark.lotId ? { id: mark.lotId, number: mark.lotNo! } : null;
	const defined = await listFacts(sql);
	const [where, life, madeFrom, wentInto, facts, warranty] = await Promise.all([
		// What has gone is counted from what went: what a place out there balances to also holds what came from it.
		sql<MarkPage['where']>`
			SELECT place, virtual, trim_scale(sum(qty))::text AS qty, string_agg(DISTINCT partner, ', ') AS partner FROM (
				SELECT p.code AS place, false AS virtual, b.qty, NULL AS partner FROM balance b JOIN place p ON p.id = b.place_id
					WHERE b.mark_id = ${id} AND b.qty > 0 AND NOT b.virtual
				UNION ALL SELECT t.code, true, m.qty, q.name FROM effective_movement m JOIN place t ON t.id = m.to_place AND t.virtual
					JOIN event e ON e.id = m.event_id LEFT JOIN partner q ON q.id = e.partner_id WHERE m.mark_id = ${id}
				UNION ALL SELECT f.code, true, -m.qty, NULL FROM effective_movement m JOIN place f ON f.id = m.from_place AND f.virtual
					WHERE m.mark_id = ${id} AND (m.role = 'detach' OR (m.role IS NULL AND f.code IN ('@customer', '@scrap')))) w
			GROUP BY place, virtual HAVING sum(qty) > 0 ORDER BY virtual, place`,
		lifeOf(sql, id, defined),
		sql<Link[]>`
			SELECT k.id, k.kind, k.number, i.code AS item, i.name AS "itemName", i.unit, trim_scale(sum(u.qty))::text AS qty, r.code AS run,
				r.unit_mark IS NULL AS pooled, to_char(max(u.at), ${stamp}) AS at, u.role
			FROM run r JOIN effective_movement u ON u.run_id = r.id AND u.role IN ('use', 'detach') JOIN mark k ON k.id = u.mark_id JOIN item i ON i.id = k.item_id
			WHERE r.id IN (SELECT m.run_id FROM effective_movement m WHERE m.mark_id = ${id} AND m.role = 'make' UNION SELECT x.id FROM run x WHERE x.unit_mark = ${id})
			GROUP BY k.id, i.id, r.id, u.role ORDER BY i.code, k.number COLLATE natural_order LIMIT ${MOST_LINKS}`,
		sql<Link[]>`
			SELECT k.id, k.kind, k.number, i.code AS item, i.name AS "itemName", i.unit, coalesce(trim_scale(sum(m.qty)), 0)::text AS qty, r.code AS run,
				r.unit_mark IS NULL AS pooled, coalesce(to_char(max(m.at), ${stamp}), '') AS at, 'make' AS role
			FROM run r LEFT JOIN effective_movement m ON m.run_id = r.id AND m.role = 'make'
			JOIN mark k ON k.id = coalesce(m.mark_id, r.unit_mark) JOIN item i ON i.id = k.item_id
			WHERE r.id IN (SELECT u.run_id FROM effective_movement u WHERE u.mark_id = ${id} AND u.role = 'use')
			GROUP BY k.id, i.id, r.id ORDER BY i.code, k.number COLLATE natural_order LIMIT ${MOST_LINKS}`,
		factsOf(sql, id, mark.values, defined),
		mark.lasts ? warrantyOf(sql, id, mark.lasts) : ''
	]);
	const { values: _v, lasts: _l, lotId: _i, lotNo: _n, ...rest } = mark;
	return { ...rest, where: [...where], life, madeFrom: [...madeFrom], wentInto: [...wentInto], facts, warranty };
}

/** The facts of a mark as they are, each with the event that gave it this value. */
async function factsOf(sql: Db, id: string, now: Facts, defined: Fact[]): Promise<RecordedFact[]> {
	if (!Object.keys(now).length) return [];
	// From the first to the last: what it was booked with, then each change.
	const steps = await sql<{ facts: Facts; by: string; at: string; event: string }[]>`
		SELECT x.facts, coalesce(n.name, e.recorded_by) AS by, to_char(e.at AT TIME ZONE 'UTC', ${stamp}) AS at, e.id AS event FROM (
			SELECT k.event_id, coalesce((SELECT c.old::jsonb FROM mark_change c WHERE c.mark_id = k.id AND c.field = 'facts' ORDER BY c.event_id LIMIT 1), k.facts) AS facts FROM mark k WHERE k.id = ${id}
			UNION ALL SELECT c.event_id, c.new::jsonb FROM mark_change c WHERE c.mark_id = ${id} AND c.field = 'facts') x
		JOIN event e ON e.id = x.event_id LEFT JOIN person n ON n.login = e.recorded_by ORDER BY e.id`;
	return Object.entries(now).map(([code, value]) => {
		const fact = defined.find((f) => f.code === code);
		let at = steps.length - 1;
		while (at > 0 && steps[at - 1].facts[code] === value) at--;
		const { by, at: when, event } = steps[at];
		return {
			...{ code, name: fact?.name ?? code, value: fact ? showFact(fact, value) : value },
			...{ file: fact?.kind === 'file' ? (fileOf(value)?.sha256 ?? null) : null, by, at: when, event }
		};
	}).sort((a, b) => a.name.localeCompare(b.name)); // prettier-ignore
}

/** From the days it was shipped, what its warranty comes to. */
async function warrantyOf(sql: Db, id: string, lasts: string): Promise<string> {
	const [{ first, last }] = await sql<{ first: string | null; last: string | null }[]>`
		SELECT to_char(min(m.at), 'YYYY-MM-DD') AS first, to_char(max(m.at), 'YYYY-MM-DD') AS last
		FROM effective_movement m JOIN place p ON p.id = m.to_place AND p.code = '@customer' WHERE m.mark_id = ${id}`;
	if (!first || !last) return '';
	const until = (day: string) => showDay(addDuration(day, lasts));
	return first === last
		? `until ${until(last)} (shipped ${showDay(last)} + ${sayDuration(lasts)})`
		: `until ${until(first)} to ${until(last)}, ${sayDuration(lasts)} from each shipment`;
}

/** The life of a mark: its movements, and the changes of its facts, in time order. */
async function lifeOf(sql: Db, id: string, defined: Fact[]): Promise<LifeEvent[]> {
	const rows = await sql<
		(LifeEvent & {
			orderCode: string | null;
			orderKind: string | null;
			field: string | null;
			old: string | null;
			new: string | null;
		})[]
	>`
		SELECT e.id, e.key, e.kind, to_char(e.at AT TIME ZONE 'UTC', ${stamp}) AS at, to_char(e.recorded_at AT TIME ZONE 'UTC', ${stamp}) AS "recordedAt",
			coalesce(n.name, e.recorded_by) AS by, e.document, o.code AS "orderCode", o.kind AS "orderKind", q.name AS partner, e.reason,
			EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id) AS undone, e.undoes, x.qty, x.from, x.to, x.role, x.run, x.field, x.old, x.new
		FROM (
			SELECT m.event_id, m.id AS pos, trim_scale(m.qty)::text AS qty, f.code AS from, t.code AS to, m.role, r.code AS run, NULL AS field, NULL AS old, NULL AS new
			FROM movement m JOIN place f ON f.id = m.from_place JOIN place t ON t.id = m.to_place LEFT JOIN run r ON r.id = m.run_id WHERE m.mark_id = ${id}
			UNION ALL
			SELECT c.event_id, 0, NULL, NULL, NULL, NULL, NULL, c.field, c.old, c.new
			FROM mark_change c WHERE c.mark_id = ${id}) x
		JOIN event e ON e.id = x.event_id LEFT JOIN person n ON n.login = e.recorded_by LEFT JOIN orders o ON o.id = e.order_id LEFT JOIN partner q ON q.id = e.partner_id
		ORDER BY e.at, x.event_id, x.pos LIMIT 1000`;
	return rows.map(({ orderCode, orderKind, field, old, new: now, ...r }) => ({
		...r,
		change: field ? sayChange(field, old, now, defined) : null,
		order: orderCode ? { code: orderCode, kind: orderKind! } : null
	}));
}

/** A change of what is recorded, in words: "expires on: none → 2027-03-03"; of facts only those that changed. */
function sayChange(field: string, old: string | null, now: string | null, defined: Fact[]): string {
	if (field !== 'facts') return `${field.replace('_', ' ')}: ${old ?? 'none'} → ${now ?? 'none'}`;
	const [a, b] = [old, now].map((t) => JSON.parse(t ?? '{}') as Facts);
	return Object.keys(b).filter((code) => a[code] !== b[code]).map((code) => {
		const fact = defined.find((f) => f.code === code) ?? { name: code, kind: 'text' as const, unit: null };
		return `${fact.name}: ${a[code] ? showFact(fact, a[code]) : 'none'} → ${showFact(fact, b[code])}`;
	}).join(', '); // prettier-ignore
}
