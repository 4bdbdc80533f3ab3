import { showWhen } from '../../core/dates/dates.ts';
import type { Db } from '../database/connect.ts';
import type { About, Finding } from '../../core/checks/check.ts';
import type { StoppedPart } from '../../core/checks/catalogue.ts';
import { expiring, notesOfReceipt, wantsReleased, type Last, type CheckContext } from '../../core/checks/movements.ts';
import type { Day } from '../../core/dates/dates.ts';
import { fileOf, type Fact } from '../../core/facts/fact.ts';
import type { Line, Mark, Place } from '../../core/ledger/line.ts';
import { virtualPlace } from '../../core/ledger/places.ts';
import { amount } from '../../core/quantity/quantity.ts';
import type { Promised } from '../../core/allocation/promises.ts';
import { group } from '../../core/group/group.ts';
import { nearNumbers } from '../marks/near.ts';
import { stoppedIn } from '../marks/inside.ts';
import { termsFor, type TermsOf } from '../marks/terms.ts';
import { dayIn, timeIn } from '../../core/time/clock.ts';

/**
 * Loads what the checks of some movements ask of the world: a fixed number of statements, whatever the count, sent
 * together.
 * @param of when the event happened, which is what "today" is for it; with whom; the orders that it fulfils; and what is asked of
 *   what goes to a customer, where that was read already
 */
export async function loadWorld(
	tx: Db,
	lines: readonly Line[],
	{
		policy,
		facts,
		standing,
		fresh,
		stopping,
		promising
	}: Pick<CheckContext, 'policy' | 'facts' | 'standing'> & {
		fresh: readonly Mark[];
		stopping: boolean;
		promising: boolean;
	},
	{ at, partner, orders, terms }: { at: Date; partner: string | null; orders: readonly string[]; terms?: TermsOf }
): Promise<CheckContext & { promises: string[] }> {
	const [
		{ asked, cameBack },
		owners,
		{ promised, promises },
		staged,
		dealt,
		last,
		contained,
		stoppedIn,
		inRuns,
		numbers,
		near,
		files
	] = await Promise.all([
		loadAsked(tx, lines, partner, terms),
		loadOwners(tx, lines),
		promising ? loadPromised(tx, lines, orders, partner) : { promised: new Map(), promises: [] },
		loadStaged(tx, lines, orders),
		loadDealt(tx, lines, partner),
		loadLast(tx, lines),
		loadContained(tx, lines),
		stopping ? loadStopped(tx, lines) : new Map<string, StoppedPart[]>(),
		loadInRuns(tx, lines),
		loadNumbers(tx, fresh),
		loadNear(tx, lines),
		loadFiles(tx, lines, facts)
	]);
	const days = new Map<string, Day>();
	const day = ({ zone }: Place) => {
		const known = days.get(zone) ?? dayIn(zone, at);
		days.set(zone, known);
		return known;
	};
	return {
		...{
			policy,
			facts,
			day,
			standing,
			asked,
			cameBack,
			owners,
			partnerCode: partner,
			promised,
			promises,
			staged,
			...dealt,
			last,
			contained,
			stoppedIn,
			inRuns
		},
		...{ ...numbers, near, files, takers: new Map() }
	};
}

/** What is asked of what goes to a customer. */
async function loadAsked(
	tx: Db,
	lines: readonly Line[],
	customer: string | null,
	given?: TermsOf
): Promise<Pick<CheckContext, 'asked' | 'cameBack'>> {
	const goes = lines.filter((l) => l.to.code === '@customer' && !l.from.virtual);
	const items = [...new Set(goes.map((l) => l.item.id))];
	if (!items.length) return { asked: new Map(), cameBack: new Set() };
	const terms = given ?? (await termsFor(tx, items, { place: null, customer, purpose: 'shipment' }));
	const serials = goes.filter((l) => l.mark.kind === 'serial' && !l.mark.fresh && terms(l.item.id).newOnly);
	const back = serials.length
		? await tx<
				{ mark: string }[]
			>`SELECT mark_id AS mark FROM came_back WHERE mark_id = ANY(${serials.map((l) => l.mark.id)}::bigint[])`
		: [];
	return { asked: new Map(items.map((id) => [id, terms(id)])), cameBack: new Set(back.map((b) => b.mark)) };
}

/** Names of the partners that what is moved belongs to; mostly all of it is ours. */
async function loadOwners(tx: Db, lines: readonly Line[]): Promise<CheckContext['owners']> {
	const codes = new Set<string>();
	for (const l of lines) for (const code of [l.mark.owner, l.lot?.owner, l.given.owner]) if (code) codes.add(code);
	if (!codes.size) return new Map();
	const rows = await tx<
		{ code: string; name: string }[]
	>`SELECT code, name FROM partner WHERE code = ANY(${[...codes]})`;
	return new Map(rows.map((r) => [r.code, r.name]));
}

/** Ids of the known marks of which something leaves the firm's places. */
export const leavingIn = (lines: readonly Line[]): string[] => [
	...new Set(lines.flatMap((l) => (!l.from.virtual && l.to.virtual && !l.mark.fresh ? [l.mark.id] : [])))
];

/** What is promised to other orders, or to other customers, of what leaves; and the ids of all promises of it that are not ended. */
async function loadPromised(
	tx: Db,
	lines: readonly Line[],
	orders: readonly string[],
	partner: string | null
): Promise<{ promised: CheckContext['promised']; promises: string[] }> {
	const leaving = leavingIn(lines);
	if (!leaving.length) return { promised: new Map(), promises: [] };
	const rows = await tx<(Promised & { mark: string; counts: boolean })[]>`
		SELECT p.mark_id AS mark, p.id, n.to AS order, coalesce(p.order_line_id, 0) AS line, n.site, trim_scale(n.rest)::text AS qty,
			n.id IS NOT NULL AND NOT own_promise(n, NULL, ${partner}) AND NOT coalesce(n.order_id = ANY(${[...orders]}::bigint[]), false) AS counts
		FROM promise p LEFT JOIN promise_now n ON n.id = p.id WHERE p.mark_id = ANY(${leaving}::bigint[]) AND p.released_at IS NULL AND p.taken < p.qty ORDER BY p.id`;
	const promised = group(
		rows.filter((r) => r.counts),
		(r) => r.mark
	);
	return { promised, promises: rows.map((r) => r.id) };
}

/** How much of what leaves a place where picked goods wait was picked for other orders. */
async function loadStaged(tx: Db, lines: readonly Line[], orders: readonly string[]): Promise<CheckContext['staged']> {
	const from = lines.filter((l) => l.from.staging && !l.mark.fresh);
	if (!from.length) return new Map();
	const rows = await tx<{ at: string; of: string; qty: string }[]>`
		SELECT v.mark_id || ' ' || v.place_id AS at, string_agg(DISTINCT o.code, ', ' ORDER BY o.code) AS of, trim_scale(sum(v.qty))::text AS qty
		FROM order_staged v JOIN orders o ON o.id = v.order_id WHERE v.mark_id = ANY(${from.map((l) => l.mark.id)}::bigint[])
			AND v.place_id = ANY(${from.map((l) => l.from.id)}::bigint[]) AND v.order_id <> ALL (${[...orders]}::bigint[]) GROUP BY v.mark_id, v.place_id`;
	return new Map(rows.map(({ at, ...staged }) => [at, staged]));
}

/** Of what comes back from a partner or goes back to it: what it has, and from whom it came. */
async function loadDealt(
	tx: Db,
	lines: readonly Line[],
	partner: string | null
): Promise<Pick<CheckContext, 'partner' | 'withThem' | 'cameFrom'>> {
	const known = (end: 'from' | 'to', code: string) =>
		partner ? [...new Set(lines.filter((l) => l[end].code === code && !l.mark.fresh).map((l) => l.mark.id))] : [];
	const [back, sent] = [known('from', '@customer'), known('to', '@supplier')];
	if (!back.length && !sent.length) return { partner: null, withThem: new Map(), cameFrom: new Map() };
	const [[them], has, came] = await Promise.all([
		tx<{ name: string }[]>`SELECT name FROM partner WHERE code = ${partner}`,
		back.length
			? tx<{ mark: string; has: string; others: string[] }[]>`
				SELECT n.mark, coalesce(trim_scale(sum(h.qty) FILTER (WHERE q.code = ${partner})), 0)::text AS has,
					coalesce(array_agg(coalesce(q.name, 'somebody who was not named') ORDER BY h.shipped_at DESC) FILTER (WHERE q.code IS DISTINCT FROM ${partner} AND h.qty > 0), '{}') AS others
				FROM unnest(${back}::bigint[]) n(mark) LEFT JOIN LATERAL (SELECT * FROM customer_has h WHERE h.mark_id = n.mark) h ON true LEFT JOIN partner q ON q.id = h.partner_id GROUP BY n.mark`
			: [],
		sent.length
			? tx<{ mark: string; from: string[] }[]>`
				SELECT n.mark, array_agg(DISTINCT q.name) AS from FROM unnest(${sent}::bigint[]) n(mark) JOIN mark k ON k.id = n.mark
				JOIN effective_movement m ON m.mark_id IN (k.id, k.parent_id) JOIN place f ON f.id = m.from_place AND f.code = '@supplier'
				JOIN event e ON e.id = m.event_id JOIN partner q ON q.id = e.partner_id GROUP BY n.mark`
			: []
	]);
	return {
		partner: them?.name ?? null,
		withThem: new Map(has.map(({ mark, ...h }) => [mark, h])),
		cameFrom: new Map(came.map((c) => [c.mark, c.from]))
	};
}

/** Ids of the known serials that come in from outside. */
export const arrivingIn = (lines: readonly Line[]): string[] => [
	...new Set(
		lines
			.filter((l) => l.mark.kind === 'serial' && !l.mark.fresh && l.from.virtual && l.given.role !== 'detach')
			.map((l) => l.mark.id)
	)
];

/** Where the known serials that come in from outside went last. */
async function loadLast(tx: Db, lines: readonly Line[]): Promise<CheckContext['last']> {
	const arriving = arrivingIn(lines);
	if (!arriving.length) return new Map();
	const rows = await tx<(Omit<Last, 'on'> & { mark: string; at: Date; zone: string })[]>`
		SELECT w.mark, m.id AS movement, p.code, m.at, q.name AS partner, r.code AS run, j.code AS job, coalesce(p.zone, s.zone, f.zone) AS zone
		FROM firm f CROSS JOIN unnest(${arriving}::bigint[]) w(mark)
		CROSS JOIN LATERAL (SELECT * FROM effective_movement m WHERE m.mark_id = w.mark ORDER BY m.at DESC, m.id DESC LIMIT 1) m
		JOIN place p ON p.id = m.to_place LEFT JOIN place s ON s.id = p.site_id JOIN event e ON e.id = m.event_id
		LEFT JOIN partner q ON q.id = e.partner_id LEFT JOIN run r ON r.id = m.run_id LEFT JOIN job j ON j.id = e.job_id`;
	return new Map(rows.map(({ mark, at, zone, ...last }) => [mark, { ...last, on: dayIn(zone, at) }]));
}

/** How much of each component that is taken out is in its run. */
async function loadContained(tx: Db, lines: readonly Line[]): Promise<CheckContext['contained']> {
	const runs = [...new Set(lines.flatMap((l) => (l.given.role === 'detach' && l.run?.id ? [l.run.id] : [])))];
	if (!runs.length) return new Map();
	const rows = await tx<{ run: string; mark: string; qty: string }[]>`
		SELECT run_id AS run, mark_id AS mark, trim_scale(sum(CASE role WHEN 'use' THEN qty WHEN 'detach' THEN -qty ELSE 0 END))::text AS qty
		FROM effective_movement WHERE run_id = ANY(${runs}::bigint[]) GROUP BY 1, 2`;
	return new Map(rows.map((r) => [`${r.run} ${r.mark}`, r.qty]));
}

/** Of what leaves: what in it is on hold, quarantined or rejected now, on any level. */
async function loadStopped(tx: Db, lines: readonly Line[]): Promise<CheckContext['stoppedIn']> {
	const leaving = [...new Set(lines.flatMap((l) => (wantsReleased(l) && !l.mark.fresh ? [l.mark.id] : [])))];
	return leaving.length ? stoppedIn(tx, leaving) : new Map();
}

/** Of the runs that something comes out of: the first to expire of what went in before. */
async function loadInRuns(tx: Db, lines: readonly Line[]): Promise<CheckContext['inRuns']> {
	const runs = [...new Set(lines.flatMap((l) => (l.given.role === 'make' && l.run?.id ? [l.run.id] : [])))];
	if (!runs.length) return new Map();
	const rows = await tx<(About & { run: string; on: Day })[]>`
		SELECT DISTINCT ON (m.run_id) m.run_id AS run, k.number, k.kind, k.expires_on AS on
		FROM effective_movement m JOIN mark_now k ON k.id = m.mark_id AND k.expires_on IS NOT NULL
		WHERE m.run_id = ANY(${runs}::bigint[]) AND m.role = 'use' ORDER BY m.run_id, k.expires_on`;
	return new Map(rows.map((r) => [r.run, expiring(r, r.on)!]));
}

/**
 * Numbers that go by the same as a new one: a serial of another item, and a number of the same item that looks like it.
 * Each new mark is told how many look like it, whatever they are.
 * @param except id of one that gets another number: it does not stand in its own way
 */
export async function loadNumbers(
	tx: Db,
	fresh: readonly Mark[],
	except: string | null = null
): Promise<Pick<CheckContext, 'others' | 'alike' | 'former'>> {
	const wanted = fresh
		.filter((m) => m.kind !== 'unmarked')
		.map((mark) => ({ mark, kind: mark.kind, item: mark.item_id, number: mark.serial_no ?? mark.lot_no! }));
	const others = new Map<string, { mark: string; name: string; code: string; everywhere: boolean }>();
	const alike = new Map<string, { mark: string; number: string }>();
	if (!wanted.length) return { others, alike, former: new Map() };
	// One statement, one moment: how many look like it and which ones they are may not be read apart.
	const looking = tx<Alike[]>`
		SELECT g.n::int, g.lookalikes, g.alike, a.number AS "alikeNumber", g.other, i.name, i.code, i.serials_unique_everywhere AS everywhere FROM (
			SELECT w.n, max(k.lookalike) + 1 AS lookalikes,
				max(k.id) FILTER (WHERE k.item_id = w.item AND k.kind = w.kind AND k.number <> w.number) AS alike,
				coalesce(max(k.id) FILTER (WHERE k.item_id <> w.item AND w.kind = 'serial' AND k.serial_no = w.number AND x.serials_unique_everywhere),
					max(k.id) FILTER (WHERE k.item_id <> w.item AND w.kind = 'serial' AND k.serial_no = w.number)) AS other
			FROM unnest(${wanted.map((w) => w.kind)}::text[], ${wanted.map((w) => w.item)}::bigint[], ${wanted.map((w) => w.number)}::text[])
				WITH ORDINALITY w(kind, item, number, n)
			JOIN mark k ON k.looks = looks(w.number) AND k.kind <> 'unmarked' AND k.id IS DISTINCT FROM ${except}::bigint JOIN item x ON x.id = k.item_id GROUP BY w.n) g
		LEFT JOIN mark a ON a.id = g.alike LEFT JOIN mark o ON o.id = g.other LEFT JOIN item i ON i.id = o.item_id`;
	const [rows, former] = await Promise.all([looking, loadFormer(tx, wanted, except)]);
	for (const r of rows) {
		const { mark, kind, item, number } = wanted[r.n - 1];
		mark.lookalikes = r.lookalikes;
		if (r.alike) alike.set(`${kind} ${item} ${number}`, { mark: r.alike, number: r.alikeNumber });
		if (r.other)
			others.set(`${item} ${number}`, { mark: r.other, name: r.name, code: r.code, everywhere: r.everywhere });
	}
	return { others, alike, former };
}
/** Of new numbers: those that one of the same item had before, and whether a label or paper of then carries it. */
async function loadFormer(
	tx: Db,
	wanted: readonly { kind: string; item: string; number: string }[],
	except: string | null
): Promise<CheckContext['former']> {
	const rows = await tx<{ kind: string; item: string; was: string; mark: string; number: string; printed: boolean }[]>`
		SELECT k.kind, k.item_id AS item, a.number AS was, k.id AS mark, k.number,
			EXISTS (SELECT 1 FROM label_print l WHERE l.subject = 'mark ' || k.id AND l.printed_at < c.recorded_at)
				OR EXISTS (SELECT 1 FROM paper_mark p JOIN paper d ON d.id = p.paper_id WHERE p.mark_id = k.id AND d.made_at < c.recorded_at) AS printed
		FROM (SELECT DISTINCT * FROM unnest(${wanted.map((w) => w.kind)}::text[], ${wanted.map((w) => w.item)}::bigint[], ${wanted.map((w) => w.number)}::text[])
			w(kind, item, number)) w
		JOIN mark_alias a ON a.number = w.number JOIN mark k ON k.id = a.mark_id AND k.item_id = w.item AND k.kind = w.kind
			AND k.id IS DISTINCT FROM ${except}::bigint
		-- It may have had the number more than once: what was printed before it lost it last.
		CROSS JOIN LATERAL (SELECT max(e.recorded_at) AS recorded_at FROM mark_change h JOIN event e ON e.id = h.event_id
			WHERE h.mark_id = k.id AND h.field IN ('lot_no', 'serial_no') AND h.old = a.number) c`;
	return new Map(
		rows.map((r) => [`${r.kind} ${r.item} ${r.was}`, { mark: r.mark, number: r.number, printed: r.printed }])
	);
}
interface Alike {
	n: number;
	lookalikes: number;
	alike: string | null;
	alikeNumber: string;
	other: string | null;
	name: string;
	code: string;
	everywhere: boolean;
}

/** Found lots that are new are looked at so many at a time: a firm's whole stock, put in on its first day, is no slip. */
const MOST_NEAR = 20;
/** Of new lots that are said to have been found: known ones that are written nearly so. */
async function loadNear(tx: Db, lines: readonly Line[]): Promise<CheckContext['near']> {
	const found = new Map(
		lines.flatMap((l) =>
			l.from.code === '@adjust' && l.mark.fresh && l.mark.kind === 'lot' ? [[l.mark.id, l] as const] : []
		)
	);
	if (!found.size || found.size > MOST_NEAR) return new Map();
	const near = await Promise.all(
		[...found].map(async ([id, l]) => {
			const known = await nearNumbers(tx, l.mark.lot_no!, 3, [l.item.id]);
			const few = known.filter((k) => k.kind === 'lot' && k.slips <= 2).map((k) => k.number);
			return few.length ? [[id, few] as const] : [];
		})
	);
	return new Map(near.flat());
}

/** Which of the files that movements give as facts are here. */
async function loadFiles(
	tx: Db,
	lines: readonly Line[],
	facts: ReadonlyMap<string, Fact>
): Promise<CheckContext['files']> {
	if (![...facts.values()].some((f) => f.kind === 'file')) return new Set();
	const given = lines.flatMap((l) =>
		Object.entries(l.given.facts ?? {}).flatMap(([code, value]) =>
			facts.get(code)?.kind === 'file' ? (fileOf(value)?.sha256 ?? []) : []
		)
	);
	if (!given.length) return new Set();
	const there = await tx<
		{ sha256: string }[]
	>`SELECT sha256 FROM stored_file WHERE sha256 = ANY(${[...new Set(given)]})`;
	return new Set(there.map((t) => t.sha256));
}

/** What is only noted of a receipt: lots that are known, and lots that came before under the supplier's number. */
export async function noteReceipt(tx: Db, lines: readonly Line[]): Promise<Finding[]> {
	const lots = new Map<string, Line>();
	for (const l of lines) {
		const lot = l.mark.kind === 'lot' ? l.mark : l.lot;
		if (l.from.code === '@supplier' && lot) lots.set(`${lot.id} ${l.given.supplierLot ?? ''}`, l);
	}
	if (!lots.size) return [];
	const rows = [...lots.values()].map((l) => ({ l, lot: l.mark.kind === 'lot' ? l.mark : l.lot! }));
	const known = rows.filter((r) => !r.lot.fresh);
	const [hand, theirs] = await Promise.all([
		known.length
			? tx<{ id: string; qty: string }[]>`
				SELECT k.id, (SELECT coalesce(trim_scale(sum(b.qty)), 0)::text FROM balance b WHERE NOT b.virtual
					AND b.mark_id IN (SELECT k.id UNION ALL SELECT c.id FROM mark c WHERE c.parent_id = k.id)) AS qty
				FROM mark k WHERE k.id = ANY(${known.map((r) => r.lot.id)}::bigint[])`
			: [],
		tx<
			{
				item: string;
				theirs: string;
				mark: string;
				number: string;
				at: Date | null;
				expires: Day | null;
				zone: string;
			}[]
		>`
			SELECT k.item_id AS item, w.theirs, k.lot_no AS number, k.id AS mark, k.expires_on AS expires, e.at, f.zone
			FROM firm f CROSS JOIN (SELECT DISTINCT * FROM unnest(${rows.map((r) => r.l.item.id)}::bigint[],
				${rows.map((r) => (r.l.given.supplierLot || r.lot.lot_no!).toLowerCase())}::text[]) w(item, theirs)) w
			JOIN mark k ON k.kind = 'lot' AND k.item_id = w.item AND lower(k.supplier_lot) LIKE replace(replace(replace(w.theirs, '\\', '\\\\'), '%', '\\%'), '_', '\\_')
			LEFT JOIN event e ON e.id = k.event_id
			-- A lot whose only receipt was undone never came.
			WHERE NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = k.event_id) OR EXISTS (SELECT 1 FROM effective_movement m WHERE m.mark_id = k.id)
			ORDER BY k.id`
	]);
	const unit = new Map(known.map((r) => [r.lot.id, r.l.item.unit]));
	return notesOfReceipt(lines, {
		known: new Map([...hand].map((h) => [h.id, { onHand: amount(h.qty, unit.get(h.id)!) }])),
		theirs: new Map(
			theirs.map((t) => [
				`${t.item} ${t.theirs}`,
				{ mark: t.mark, number: t.number, on: t.at && dayIn(t.zone, t.at), expires: t.expires }
			])
		)
	});
}

/** Of what is short at a place: who took it last, when, and for what; for the few that are short. */
export async function loadTakers(tx: Db, lines: readonly Line[]): Promise<CheckContext['takers']> {
	const mine = lines.filter((l) => !l.mark.fresh && !l.from.virtual).slice(0, 50);
	const rows = await tx<
		{ mark: string; place: string; to: string; by: string; at: Date; document: string | null; zone: string }[]
	>`
		SELECT w.mark, w.place, p.code AS to, coalesce(n.name, e.recorded_by) AS by, e.recorded_at AS at, e.document, f.zone
		FROM firm f CROSS JOIN unnest(${mine.map((l) => l.mark.id)}::bigint[], ${mine.map((l) => l.from.id)}::bigint[]) w(mark, place)
		CROSS JOIN LATERAL (SELECT * FROM effective_movement m WHERE m.mark_id = w.mark AND m.from_place = w.place ORDER BY m.id DESC LIMIT 1) m
		JOIN event e ON e.id = m.event_id JOIN place p ON p.id = m.to_place LEFT JOIN person n ON n.login = e.recorded_by`;
	const took = (to: string) => virtualPlace(to)?.took ?? `to ${to}`;
	return new Map(
		rows.map((r) => [
			`${r.mark} ${r.place}`,
			{ by: r.by, at: showWhen(timeIn(r.zone, r.at)), how: r.document ?? took(r.to) }
		])
	);
}
