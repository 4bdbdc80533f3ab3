import type { Db } from '../database/connect.ts';
import { documentPath, type Kind } from '../../core/document/kinds.ts';
import type { Fact } from '../../core/facts/fact.ts';
import { sayChange } from '../../core/ledger/change.ts';
import type { Field } from '../../core/ledger/corrections.ts';
import { sayDid } from '../../core/ledger/did.ts';
import type { Role } from '../../core/ledger/events.ts';
import { ranged } from '../../core/ranges/ranges.ts';
import { timeIn, type Zone } from '../../core/time/clock.ts';

/** One thing that happened to a lot or serial; of a lot also to its pieces, folded into ranges. */
export interface LifeEvent {
	id: string;
	key: string;
	kind: string;
	/** what it did to this number: "used for WM-0207" */
	did: string;
	at: string;
	recordedAt: string;
	by: string;
	document: string | null;
	/** the document's page */
	path: string | null;
	reason: string | null;
	undone: boolean;
	undoes: string | null;
	/** id of the event whose quantity it puts right */
	mends: string | null;
	qty: string | null;
	/** the pieces it happened to, of a lot whose pieces have serials: "PW-0001 … PW-0040" */
	pieces: string | null;
	from: string | null;
	to: string | null;
	change: string | null;
}
/** The most lines of a life that a page shows: the last ones. */
export const MOST_LIFE = 100;

interface Row {
	id: string;
	/** its place in the order of booking, as a cursor has it */
	pos: string;
	key: string;
	kind: string;
	at: Date;
	recordedAt: Date;
	by: string;
	document: string | null;
	orderCode: string | null;
	orderKind: Kind | null;
	partner: string | null;
	job: string | null;
	reason: string | null;
	undone: boolean;
	undoes: string | null;
	mends: string | null;
	qty: string | null;
	numbers: string[] | null;
	from: string | null;
	fromSite: string | null;
	to: string | null;
	toSite: string | null;
	role: Role | null;
	run: string | null;
	made: string[] | null;
	numbering: boolean;
	field: Field | null;
	old: string | null;
	new: string | null;
}

/** Which lines of a life are read: so many of the last, the latest first; or so many from a place on, in the order of booking. */
type Part = { last: number } | { after: string | null; count: number };

/**
 * The life of a mark in time order: its movements and those of the pieces that belong to it, one line for all the pieces
 * that went the same way in one event; and the changes of what is recorded. Of a long one the last lines, and whether there
 * are more.
 * @param defined the firm's facts, to say their values
 */
export async function lifeOf(
	sql: Db,
	id: string,
	defined: readonly Fact[],
	zone: Zone
): Promise<{ life: LifeEvent[]; more: boolean }> {
	const rows = await linesOf(sql, id, { last: MOST_LIFE + 1 });
	const life = rows.slice(0, MOST_LIFE).reverse();
	return { life: life.map((r) => lineOf(r, defined, zone)), more: rows.length > MOST_LIFE };
}

/** One line of a life, as programs read it: its times are ISO 8601, its event is named as such. */
export type BookedLine = Omit<LifeEvent, 'id' | 'path'> & {
	event: string;
	order: string | null;
	partner: string | null;
	run: string | null;
};
/** The life of a mark in the order of booking, by pages: what is booked later stands after what was read. */
export async function bookedOf(
	sql: Db,
	id: string,
	defined: readonly Fact[],
	{ after, count }: { after: string | null; count: number }
): Promise<{ events: BookedLine[]; next: string | null }> {
	const rows = await linesOf(sql, id, { after, count: count + 1 });
	const events = rows.slice(0, count).map((r): BookedLine => {
		const { id: event, did, path: _path, ...line } = lineOf(r, defined, 'UTC');
		return {
			...{ event, ...line, did },
			at: r.at.toISOString(),
			recordedAt: r.recordedAt.toISOString(),
			order: r.orderCode,
			partner: r.partner ?? r.job,
			run: r.run
		};
	});
	return { events, next: rows.length > count ? rows[count - 1].pos : null };
}

async function linesOf(sql: Db, id: string, part: Part): Promise<Row[]> {
	const [event, line, field = ''] = ('after' in part && part.after?.split('.')) || ['0', '-1'];
	return sql<Row[]>`
		WITH mine AS MATERIALIZED (SELECT k.id, k.number, k.id = ${id} AS own FROM mark k WHERE k.id = ${id} OR k.parent_id = ${id})
		SELECT e.id, x.event_id || '.' || x.pos || '.' || coalesce(x.field, '') AS pos, e.key, e.kind, e.at, e.recorded_at AS "recordedAt",
			coalesce(n.name, e.recorded_by) AS by, e.document, o.code AS "orderCode", o.kind AS "orderKind", q.name AS partner, j.name AS job,
			-- Of what came back also what was found, and what became of it.
			concat_ws(': ', e.reason, (SELECT string_agg(concat_ws(', ', nullif(r.found, ''), CASE r.goes WHEN 'stock' THEN 'into stock' WHEN 'hold' THEN 'on hold' ELSE 'scrapped' END), '; ' ORDER BY r.goes)
				FROM returned r WHERE r.event_id = e.id AND r.mark_id = ${id})) AS reason,
			EXISTS (SELECT 1 FROM event u WHERE u.undoes = e.id) AS undone, e.undoes, e.mends, x.qty, x.numbers,
			f.code AS from, coalesce(fs.code, f.code) AS "fromSite", t.code AS to, coalesce(ts.code, t.code) AS "toSite", x.role, r.code AS run,
			-- What a use went into: the units of its runs, or what came out of them.
			CASE WHEN x.role IN ('use', 'detach') THEN ARRAY(SELECT u.number FROM run v JOIN mark u ON u.id = v.unit_mark WHERE v.id = ANY(x.runs)
				UNION SELECT p.number FROM run v JOIN movement m ON m.run_id = v.id AND m.role = 'make' JOIN mark p ON p.id = m.mark_id
					WHERE v.id = ANY(x.runs) AND v.unit_mark IS NULL AND p.number IS NOT NULL) END AS made,
			coalesce(r.code LIKE '%/numbered-%', false) AS numbering, x.field, x.old, x.new
		FROM (
			SELECT m.event_id, min(m.id) AS pos, trim_scale(sum(m.qty))::text AS qty, array_agg(k.number ORDER BY m.id) FILTER (WHERE NOT k.own) AS numbers,
				m.from_place, m.to_place, m.role, array_agg(DISTINCT m.run_id) FILTER (WHERE m.run_id IS NOT NULL) AS runs, NULL AS field, NULL AS old, NULL AS new
			FROM mine k JOIN movement m ON m.mark_id = k.id GROUP BY m.event_id, m.from_place, m.to_place, m.role, k.own
			UNION ALL
			SELECT c.event_id, 0, NULL, NULL, NULL, NULL, NULL, NULL::bigint[], c.field,
				CASE c.field WHEN 'parent_id' THEN (SELECT lot_no FROM mark WHERE id = c.old::bigint) ELSE c.old END,
				CASE c.field WHEN 'parent_id' THEN (SELECT lot_no FROM mark WHERE id = c.new::bigint) ELSE c.new END
			FROM mark_change c WHERE c.mark_id = ${id}) x
		JOIN event e ON e.id = x.event_id LEFT JOIN person n ON n.login = e.recorded_by LEFT JOIN orders o ON o.id = e.order_id
		LEFT JOIN partner q ON q.id = e.partner_id LEFT JOIN job j ON j.id = e.job_id
		LEFT JOIN place f ON f.id = x.from_place LEFT JOIN place fs ON fs.id = f.site_id LEFT JOIN place t ON t.id = x.to_place LEFT JOIN place ts ON ts.id = t.site_id
		LEFT JOIN run r ON cardinality(x.runs) = 1 AND r.id = x.runs[1]
		${
			'last' in part
				? sql`ORDER BY e.at DESC, x.event_id DESC, x.pos DESC, x.field DESC LIMIT ${part.last}`
				: sql`WHERE (x.event_id, x.pos, coalesce(x.field, '')) > (${event}::bigint, ${line}::bigint, ${field}) ORDER BY x.event_id, x.pos, coalesce(x.field, '') LIMIT ${part.count}`
		}`;
}

/** A line in words. */
function lineOf(r: Row, defined: readonly Fact[], zone: Zone): LifeEvent {
	const place = (code: string | null, site: string | null) => (code ? { code, site } : null);
	const did = sayDid({ ...r, from: place(r.from, r.fromSite), to: place(r.to, r.toSite), made: r.made ?? [] });
	return {
		id: r.id,
		key: r.key,
		kind: r.kind,
		did,
		at: timeIn(zone, r.at),
		recordedAt: timeIn(zone, r.recordedAt),
		by: r.by,
		document: r.document,
		path: r.orderCode ? documentPath(r.orderKind!, r.orderCode) : null,
		reason: r.reason,
		undone: r.undone,
		undoes: r.undoes,
		mends: r.mends,
		qty: r.qty,
		pieces: r.numbers?.length ? ranged(r.numbers) : null,
		from: r.from,
		to: r.to,
		change: r.field ? sayChange(r.field, r.old, r.new, defined) : null
	};
}
