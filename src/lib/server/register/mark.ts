import type { Db } from '../database/connect.ts';
import { addDuration, sayDuration, showDay } from '../../core/dates/dates.ts';
import { fileOf, readFact, showFact, type Fact, type Facts } from '../../core/facts/fact.ts';
import { documentKind, type Kind } from '../../core/document/kinds.ts';
import { dayIn, timeIn, type Zone } from '../../core/time/clock.ts';
import { lifeOf, type LifeEvent } from './life.ts';
import { allFacts } from '../marks/facts.ts';

/** What the page of a number shows. */
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
	supplierWarrantyUntil: string | null;
	/** the partner that it belongs to, itself or with its lot; null where it is ours */
	owner: string | null;
	ownerName: string | null;
	/** the firm's own facts, each with who recorded it and when */
	facts: RecordedFact[];
	/** "until 3 Mar 2028 (shipped 3 Mar 2026 + 24 months)"; empty before it is shipped, or without one */
	warranty: string;
	/** the sale that it went with last, and the event: for its delivery note */
	sold: { order: string; kind: Kind; event: string } | null;
	madeOn: string | null;
	/** in force: its own, else its lot's */
	expiresOn: string | null;
	/** from when on that its expiry is near is said */
	noticeOn: string | null;
	ownExpiresOn: string | null;
	/** what is in force: the worse of its own and its lot's */
	status: string;
	/** its own, where that is another */
	ownStatus: string;
	/** the time zone that the times are in */
	zone: string;
	aliases: string[];
	serials: number;
	/** code of its own run, where it was made as one piece */
	unitRun: string | null;
	/** its item says how much it holds: it can be repacked */
	holds: boolean;
	where: { place: string; virtual: boolean; qty: string; partner: string | null }[];
	life: LifeEvent[];
	/** there is more of its life before */
	moreLife: boolean;
	madeFrom: Links;
	wentInto: Links;
}
/** Parts or uses, as many as the page shows. */
interface Links {
	links: Link[];
	/** there are more */
	more: boolean;
}
/** A fact with who recorded it, when and what stood there before. */
export interface RecordedFact {
	code: string;
	name: string;
	/** as people read it */
	value: string;
	/** what is wrong with it by the limits in force; empty where nothing is */
	outside: string;
	/** SHA-256 of a fact that is a file */
	file: string | null;
	by: string;
	at: string;
	event: string;
}
/** A part of it, or what it went into. */
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
type RawLink = Omit<Link, 'at'> & { at: Date | null };
/** The most parts or uses that the page shows; a trace has all of them. */
const MOST_LINKS = 100;

/** A mark as it is recorded, with what is in force. */
type Recorded = Omit<
	MarkPage,
	'facts' | 'warranty' | 'sold' | 'where' | 'life' | 'moreLife' | 'madeFrom' | 'wentInto' | 'lot'
> & {
	lotId: string | null;
	lotNo: string | null;
	values: Facts;
	lasts: string | null;
};
async function recordedOf(sql: Db, id: string): Promise<Recorded | null> {
	const [mark] = await sql<Recorded[]>`
		SELECT k.id, k.kind, k.number, i.code AS item, i.name AS "itemName", i.unit, i.decimals, k.parent_id AS "lotId", k.of_lot AS "lotNo",
			k.supplier_lot AS "supplierLot", k.supplier_serial AS "supplierSerial", w.supplier_warranty_until AS "supplierWarrantyUntil", k.owner, q.name AS "ownerName", k.facts AS values, i.warranty AS lasts, k.made_on AS "madeOn", k.expires_on AS "expiresOn", k.own_expires_on AS "ownExpiresOn", k.status, k.own_status AS "ownStatus", z.zone,
			ARRAY(SELECT number FROM mark_alias a WHERE a.mark_id = k.id AND a.number <> k.number ORDER BY a.event_id) AS aliases, (SELECT count(*)::int FROM mark c WHERE c.parent_id = k.id) AS serials,
			(SELECT r.code FROM run r WHERE r.unit_mark = k.id) AS "unitRun", i.content_qty IS NOT NULL AS holds, notice_on(k.expires_on, i.notice_days)::text AS "noticeOn"
		FROM firm z CROSS JOIN mark_now k JOIN mark w ON w.id = k.id JOIN item i ON i.id = k.item_id LEFT JOIN partner q ON q.code = k.owner WHERE k.id = ${id} AND k.kind <> 'unmarked'`;
	return mark ?? null;
}

/** Of a lot what happened to the pieces that belong to it is its own too. */
const ownOf = (sql: Db, id: string) => sql`(SELECT o.id FROM mark o WHERE o.id = ${id} OR o.parent_id = ${id})`;

/** Where it is: on hand, and what has gone. */
const whereOf = (sql: Db, id: string) =>
	// What has gone is counted from what went: what a place out there balances to also holds what came from it.
	sql<MarkPage['where']>`
			WITH mine AS MATERIALIZED ${ownOf(sql, id)},
				moved AS MATERIALIZED (SELECT m.event_id, m.from_place, m.to_place, m.qty, m.role
					FROM mine JOIN effective_movement m ON m.mark_id = mine.id)
			SELECT place, virtual, trim_scale(sum(qty))::text AS qty, string_agg(DISTINCT partner, '; ') AS partner FROM (
				SELECT p.code AS place, false AS virtual, b.qty, NULL AS partner
				FROM mine JOIN balance b ON b.mark_id = mine.id AND b.qty > 0 AND NOT b.virtual JOIN place p ON p.id = b.place_id
				-- What went into something is with nobody: a lot may have gone into thousands of runs.
				UNION ALL SELECT t.code, true, m.qty, CASE WHEN j.id IS NOT NULL THEN j.name || coalesce(', for ' || c.name, '') ELSE q.name END
				FROM moved m JOIN place t ON t.id = m.to_place AND t.virtual LEFT JOIN event e ON e.id = m.event_id AND t.code <> '@process'
				LEFT JOIN partner q ON q.id = e.partner_id LEFT JOIN job j ON j.id = e.job_id LEFT JOIN partner c ON c.id = j.partner_id
				UNION ALL SELECT f.code, true, -m.qty, NULL FROM moved m JOIN place f ON f.id = m.from_place AND f.virtual
				WHERE m.role = 'detach' OR (m.role IS NULL AND f.code IN ('@customer', '@scrap', '@job'))) w
			GROUP BY place, virtual HAVING sum(qty) > 0 ORDER BY virtual, place LIMIT 200`;

/** One lot or serial as programs read it. */
export interface MarkNow {
	id: string;
	kind: 'lot' | 'serial';
	item: string;
	number: string;
	lot: string | null;
	unit: string;
	status: string;
	ownStatus: string;
	expiresOn: string | null;
	noticeOn: string | null;
	madeOn: string | null;
	supplierLot: string | null;
	supplierSerial: string | null;
	supplierWarrantyUntil: string | null;
	/** code of the partner that it belongs to; null where it is ours */
	owner: string | null;
	warranty: string | null;
	formerly: string[];
	serials: number;
	/** by their codes, as recorded */
	facts: Facts;
	where: { place: string; qty: string; partner: string | null }[];
}
/** What a lot or serial is, where it is and what is in force; null when there is none with that id. */
export async function markNow(sql: Db, id: string): Promise<MarkNow | null> {
	const [m, where, went] = await Promise.all([recordedOf(sql, id), whereOf(sql, id), wentOf(sql, id)]);
	if (!m) return null;
	return {
		...{ id: m.id, kind: m.kind, item: m.item, number: m.number, lot: m.lotNo, unit: m.unit },
		...{ status: m.status, ownStatus: m.ownStatus, expiresOn: m.expiresOn, noticeOn: m.noticeOn, madeOn: m.madeOn },
		...{ supplierLot: m.supplierLot, supplierSerial: m.supplierSerial },
		supplierWarrantyUntil: m.supplierWarrantyUntil,
		owner: m.owner,
		warranty: warrantyOf(went, m.lasts, m.zone) || null,
		formerly: m.aliases,
		serials: m.serials,
		facts: m.values,
		where: where.map(({ place, qty, partner }) => ({ place, qty, partner }))
	};
}

/** Everything about one lot or serial; null when there is none with that id. */
export async function markPage(sql: Db, id: string): Promise<MarkPage | null> {
	const mark = await recordedOf(sql, id);
	if (!mark) return null;
	const defined = [...(await allFacts(sql))];
	const own = ownOf(sql, id);
	const [where, { life, more: moreLife }, madeFrom, wentInto, facts, went] = await Promise.all([
		whereOf(sql, id),
		lifeOf(sql, id, defined, mark.zone),
		sql<RawLink[]>`
			SELECT k.id, k.kind, k.number, i.code AS item, i.name AS "itemName", i.unit, trim_scale(sum(u.qty))::text AS qty, r.code AS run,
				r.unit_mark IS NULL AS pooled, max(u.at) AS at, u.role
			FROM run r JOIN effective_movement u ON u.run_id = r.id AND u.role IN ('use', 'detach') JOIN mark k ON k.id = u.mark_id JOIN item i ON i.id = k.item_id
			WHERE r.id IN (SELECT m.run_id FROM ${own} k JOIN effective_movement m ON m.mark_id = k.id AND m.role = 'make' UNION SELECT x.id FROM ${own} k JOIN run x ON x.unit_mark = k.id)
			GROUP BY k.id, i.id, r.id, u.role ORDER BY i.code, k.number COLLATE natural_order LIMIT ${MOST_LINKS + 1}`,
		sql<RawLink[]>`
			SELECT k.id, k.kind, k.number, i.code AS item, i.name AS "itemName", i.unit, coalesce(trim_scale(sum(m.qty)), 0)::text AS qty, r.code AS run,
				r.unit_mark IS NULL AS pooled, max(m.at) AS at, 'make' AS role
			FROM run r LEFT JOIN effective_movement m ON m.run_id = r.id AND m.role = 'make'
			JOIN mark k ON k.id = coalesce(m.mark_id, r.unit_mark) JOIN item i ON i.id = k.item_id
			WHERE r.id IN (SELECT u.run_id FROM ${own} k JOIN effective_movement u ON u.mark_id = k.id AND u.role = 'use')
			GROUP BY k.id, i.id, r.id ORDER BY i.code, k.number COLLATE natural_order LIMIT ${MOST_LINKS + 1}`,
		factsOf(sql, id, mark.values, defined, mark.zone),
		wentOf(sql, id)
	]);
	const shown = (l: RawLink): Link => ({ ...l, at: l.at ? timeIn(mark.zone, l.at) : '' });
	const cut = (links: readonly RawLink[]): Links => ({
		links: links.slice(0, MOST_LINKS).map(shown),
		more: links.length > MOST_LINKS
	});
	const { values: _v, lasts: _l, lotId, lotNo, ...rest } = mark;
	return {
		...rest,
		lot: lotId ? { id: lotId, number: lotNo! } : null,
		where: [...where],
		life,
		moreLife,
		madeFrom: cut(madeFrom),
		wentInto: cut(wentInto),
		facts,
		warranty: warrantyOf(went, mark.lasts, mark.zone),
		sold: soldBy(went)
	};
}

/** What is wrong with a value by the limits in force; empty where nothing is. */
const outsideOf = (fact: Fact, value: string): string => {
	const read = readFact(fact, value);
	return ('outside' in read && read.outside) || '';
};

/** The facts of a mark as they are, each with the event that gave it this value. */
async function factsOf(sql: Db, id: string, now: Facts, defined: readonly Fact[], zone: Zone): Promise<RecordedFact[]> {
	if (!Object.keys(now).length) return [];
	// From the first to the last: what it was booked with, then each change.
	const steps = await sql<{ facts: Facts; by: string; at: Date; event: string }[]>`
		SELECT x.facts, coalesce(n.name, e.recorded_by) AS by, e.at, e.id AS event FROM (
			SELECT k.event_id, coalesce((SELECT c.old::jsonb FROM mark_change c WHERE c.mark_id = k.id AND c.field = 'facts' ORDER BY c.event_id LIMIT 1), k.facts) AS facts FROM mark k WHERE k.id = ${id}
			UNION ALL SELECT c.event_id, c.new::jsonb FROM mark_change c WHERE c.mark_id = ${id} AND c.field = 'facts') x
		JOIN event e ON e.id = x.event_id LEFT JOIN person n ON n.login = e.recorded_by ORDER BY e.id`;
	return Object.entries(now)
		.map(([code, value]) => {
			const fact = defined.find((f) => f.code === code);
			let at = steps.length - 1;
			while (at > 0 && steps[at - 1].facts[code] === value) at--;
			const { by, at: when, event } = steps[at];
			return {
				code,
				name: fact?.name ?? code,
				value: fact ? showFact(fact, value) : value,
				outside: fact ? outsideOf(fact, value) : '',
				file: fact?.kind === 'file' ? (fileOf(value)?.sha256 ?? null) : null,
				by,
				at: timeIn(zone, when),
				event
			};
		})
		.sort((a, b) => a.name.localeCompare(b.name));
}

/** Each time it went to a customer, the last at the end: with what was agreed of its line. */
const wentOf = (sql: Db, id: string) => sql<
	{ at: Date; lasts: string | null; event: string; order: string | null; kind: Kind | null }[]
>`
	SELECT m.at, l.warranty AS lasts, m.event_id AS event, o.code AS order, o.kind FROM effective_movement m
	LEFT JOIN order_line l ON l.id = m.order_line_id LEFT JOIN orders o ON o.id = l.order_id
	-- Added to nothing, it is looked for among what moved of this mark: most of what ever moved went to customers.
	WHERE m.mark_id = ${id} AND m.to_place + 0 = (SELECT p.id FROM place p WHERE p.code = '@customer') ORDER BY m.at, m.id`;
type Went = Awaited<ReturnType<typeof wentOf>>;

/** The last sale that it went with. */
function soldBy(went: Went): MarkPage['sold'] {
	const last = went[went.length - 1];
	return last?.order && last.kind && documentKind(last.kind).sells
		? { order: last.order, kind: last.kind, event: last.event }
		: null;
}

/** From the days it was shipped, what its warranty comes to: by what was agreed of its line, else of its item. */
function warrantyOf(went: Went, item: string | null, zone: Zone): string {
	const ends = went.flatMap(({ at, lasts }) => {
		const lasting = lasts ?? item;
		const day = dayIn(zone, at);
		return lasting ? [{ day, lasting, until: addDuration(day, lasting) }] : [];
	});
	if (!ends.length) return '';
	const last = ends[ends.length - 1];
	const said = (e: typeof last) => `(shipped ${showDay(e.day)} + ${sayDuration(e.lasting)})`;
	const [first, latest] = [
		ends.reduce((a, e) => (e.until < a ? e.until : a), last.until),
		ends.reduce((a, e) => (e.until > a ? e.until : a), last.until)
	];
	return first === latest
		? `until ${showDay(latest)} ${said(last)}`
		: `until ${showDay(first)} to ${showDay(latest)}, from each shipment`;
}
