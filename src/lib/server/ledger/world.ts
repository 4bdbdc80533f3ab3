import { showWhen } from '../../core/dates/dates.ts';
import type { Db } from '../database/connect.ts';
import { asDelivered, type Policy } from '../../core/checks/catalogue.ts';
import type { Found } from '../../core/checks/check.ts';
import { notesOfReceipt, type Last, type World } from '../../core/checks/movements.ts';
import type { Day } from '../../core/dates/dates.ts';
import { fileOf, type Fact } from '../../core/facts/fact.ts';
import type { Line, Place } from '../../core/ledger/line.ts';
import { virtualPlace } from '../../core/ledger/places.ts';
import { amount } from '../../core/quantity/quantity.ts';
import { dayIn, timeIn } from '../../core/time/clock.ts';

/** How strongly the firm takes what each check finds. */
export async function readPolicy(sql: Db): Promise<Policy> {
	const policy = asDelivered();
	for (const r of await sql<{ code: string; strength: Policy[string] }[]>`SELECT code, strength FROM check_policy`)
		if (Object.hasOwn(policy, r.code)) policy[r.code] = r.strength;
	return policy;
}

/**
 * Loads what the checks of some movements ask of the world: a fixed number of statements, whatever the count, sent
 * together.
 * @param at when the event happened: what "today" is for it
 */
export async function loadWorld(
	tx: Db,
	lines: readonly Line[],
	facts: ReadonlyMap<string, Fact>,
	at: Date
): Promise<World> {
	const [policy, standing, last, contained, inRuns, numbers, files] = await Promise.all([
		readPolicy(tx),
		loadStanding(tx, lines),
		loadLast(tx, lines),
		loadContained(tx, lines),
		loadInRuns(tx, lines),
		loadNumbers(tx, lines),
		loadFiles(tx, lines, facts)
	]);
	const days = new Map<string, Day>();
	const day = ({ zone }: Place) => {
		const known = days.get(zone) ?? dayIn(zone, at);
		days.set(zone, known);
		return known;
	};
	return { policy, facts, day, standing, last, contained, inRuns, ...numbers, files, takers: new Map() };
}

/** What stands at real places of the known marks that something is taken from. */
async function loadStanding(tx: Db, lines: readonly Line[]): Promise<World['standing']> {
	const marks = [...new Set(lines.filter((l) => !l.mark.fresh && !l.from.virtual).map((l) => l.mark.id))];
	const standing = new Map<string, { place: string; code: string; qty: string }[]>();
	if (!marks.length) return standing;
	for (const { mark, ...b } of await tx<{ mark: string; place: string; code: string; qty: string }[]>`
		SELECT b.mark_id AS mark, b.place_id AS place, p.code, trim_scale(b.qty)::text AS qty
		FROM balance b JOIN place p ON p.id = b.place_id WHERE b.mark_id = ANY(${marks}::bigint[]) AND b.qty > 0 AND NOT b.virtual ORDER BY p.code`) {
		const list = standing.get(mark);
		if (list) list.push(b);
		else standing.set(mark, [b]);
	}
	return standing;
}

/** Where the known serials that come in from outside went last. */
async function loadLast(tx: Db, lines: readonly Line[]): Promise<World['last']> {
	const arriving = lines.filter(
		(l) => l.mark.kind === 'serial' && !l.mark.fresh && l.from.virtual && l.given.role !== 'detach'
	);
	if (!arriving.length) return new Map();
	const rows = await tx<(Omit<Last, 'on'> & { mark: string; at: Date; zone: string })[]>`
		SELECT w.mark, p.code, m.at, q.name AS partner, r.code AS run, j.code AS job, coalesce(p.zone, s.zone, f.zone) AS zone
		FROM firm f CROSS JOIN unnest(${[...new Set(arriving.map((l) => l.mark.id))]}::bigint[]) w(mark)
		CROSS JOIN LATERAL (SELECT * FROM effective_movement m WHERE m.mark_id = w.mark ORDER BY m.at DESC, m.id DESC LIMIT 1) m
		JOIN place p ON p.id = m.to_place LEFT JOIN place s ON s.id = p.site_id JOIN event e ON e.id = m.event_id
		LEFT JOIN partner q ON q.id = e.partner_id LEFT JOIN run r ON r.id = m.run_id LEFT JOIN job j ON j.id = e.job_id`;
	return new Map(rows.map(({ mark, at, zone, ...last }) => [mark, { ...last, on: dayIn(zone, at) }]));
}

/** How much of each component that is taken out is in its run. */
async function loadContained(tx: Db, lines: readonly Line[]): Promise<World['contained']> {
	const runs = [...new Set(lines.flatMap((l) => (l.given.role === 'detach' && l.run?.id ? [l.run.id] : [])))];
	if (!runs.length) return new Map();
	const rows = await tx<{ run: string; mark: string; qty: string }[]>`
		SELECT run_id AS run, mark_id AS mark, trim_scale(sum(CASE role WHEN 'use' THEN qty WHEN 'detach' THEN -qty ELSE 0 END))::text AS qty
		FROM effective_movement WHERE run_id = ANY(${runs}::bigint[]) GROUP BY 1, 2`;
	return new Map(rows.map((r) => [`${r.run} ${r.mark}`, r.qty]));
}

/** Of the runs that something comes out of: the first to expire of what went in before. */
async function loadInRuns(tx: Db, lines: readonly Line[]): Promise<World['inRuns']> {
	const runs = [...new Set(lines.flatMap((l) => (l.given.role === 'make' && l.run?.id ? [l.run.id] : [])))];
	if (!runs.length) return new Map();
	const rows = await tx<{ run: string; number: string; kind: string; on: Day }[]>`
		SELECT DISTINCT ON (m.run_id) m.run_id AS run, k.number, k.kind, k.expires_on AS on
		FROM effective_movement m JOIN mark_now k ON k.id = m.mark_id AND k.expires_on IS NOT NULL
		WHERE m.run_id = ANY(${runs}::bigint[]) AND m.role = 'use' ORDER BY m.run_id, k.expires_on`;
	return new Map(
		rows.map((r) => [r.run, { number: `${r.kind === 'serial' ? 'Serial' : 'Lot'} ${r.number}`, on: r.on }])
	);
}

/** Numbers that go by the same as a new one: a serial of another item, and a number of the same item that looks like it. */
async function loadNumbers(tx: Db, lines: readonly Line[]): Promise<Pick<World, 'others' | 'alike'>> {
	const fresh = new Map<string, { kind: string; item: string; number: string }>();
	for (const l of lines)
		for (const mark of l.lot ? [l.mark, l.lot] : [l.mark])
			if (mark.fresh && mark.kind !== 'unmarked')
				fresh.set(mark.id, { kind: mark.kind, item: mark.item_id, number: mark.serial_no ?? mark.lot_no! });
	const others = new Map<string, { mark: string; name: string; code: string; everywhere: boolean }>();
	const alike = new Map<string, { mark: string; number: string }>();
	if (!fresh.size) return { others, alike };
	const wanted = [...fresh.values()];
	const rows = await tx<
		{
			kind: string;
			wanted: string;
			given: string;
			item: string;
			mark: string;
			number: string;
			name: string;
			code: string;
			everywhere: boolean;
		}[]
	>`
		SELECT w.kind, w.item AS wanted, w.number AS given, k.item_id AS item, k.id AS mark, k.number, i.name, i.code, i.serials_unique_everywhere AS everywhere
		FROM unnest(${wanted.map((w) => w.kind)}::text[], ${wanted.map((w) => w.item)}::bigint[], ${wanted.map((w) => w.number)}::text[]) w(kind, item, number)
		JOIN mark k ON k.looks = looks(w.number) AND k.kind <> 'unmarked' AND k.kind = w.kind
			AND CASE WHEN k.item_id = w.item THEN k.number <> w.number ELSE k.kind = 'serial' AND k.serial_no = w.number END
		JOIN item i ON i.id = k.item_id ORDER BY k.id DESC LIMIT 2000`;
	for (const r of rows)
		if (r.item === r.wanted) alike.set(`${r.kind} ${r.item} ${r.given}`, { mark: r.mark, number: r.number });
		else others.set(`${r.wanted} ${r.given}`, { mark: r.mark, name: r.name, code: r.code, everywhere: r.everywhere });
	return { others, alike };
}

/** Which of the files that movements give as facts are here. */
async function loadFiles(tx: Db, lines: readonly Line[], facts: ReadonlyMap<string, Fact>): Promise<World['files']> {
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
export async function noteReceipt(tx: Db, lines: readonly Line[]): Promise<Found[]> {
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
export async function loadTakers(tx: Db, lines: readonly Line[]): Promise<World['takers']> {
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
