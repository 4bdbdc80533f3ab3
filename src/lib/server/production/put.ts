import type { Db, Tx } from '../database/connect.ts';
import type { Scan } from '../../core/codes/scan.ts';
import { sentence } from '../../core/checks/check.ts';
import { showWhen } from '../../core/dates/dates.ts';
import { group } from '../../core/group/group.ts';
import { virtualPlace } from '../../core/ledger/places.ts';
import { isScanned, slotFor, slotsOf, type Slot } from '../../core/pairing/slots.ts';
import { add, amount, less, parseQty, rest } from '../../core/quantity/quantity.ts';
import { timeIn } from '../../core/time/clock.ts';
import { checkNow, readEvent } from '../ledger/book.ts';
import { nearNumbers } from '../marks/near.ts';
import { insertRows, type RowData } from '../sheet/drafts.ts';
import { readParts, readUnits, runOfUnit, unitComplete, type Unit, type UnitOrder, type UnitPut } from './units.ts';

/** Something that is to go into a unit. */
export interface PartGiven {
	unit: string;
	/** what was scanned or typed of the part */
	scan: Scan;
	/** how much, where it is not what its slot still wants */
	qty?: string | null;
	/** the bin that it is taken from, where it lies in several */
	bin?: string | null;
	how: 'scanned' | 'entered';
}
/** What came of it. */
export type PartTaken =
	| { taken: true; unit: string; row: string; said: string; notes: string[] }
	| { taken: false; unit: string; said: string; asks?: 'bin' };

/** Where parts are put in: a station has a place, at which a lot that lies in several bins is taken first. */
export interface PutAt {
	station: { id: string; place: string; review: boolean } | null;
	now: Date;
}

/**
 * Puts parts into open units, each into the slot that wants it, and keeps them as rows of the order's sheet. The units must
 * be held (openUnits). A fixed number of statements, whatever the count. What is refused changes nothing, and the rest
 * goes in.
 * @returns what came of each, in their order, and the units as they stand now
 */
export async function putParts(
	tx: Tx,
	by: string,
	order: UnitOrder,
	given: readonly PartGiven[],
	at: PutAt
): Promise<{ outcomes: PartTaken[]; units: Unit[] }> {
	const serials = [...new Set(given.map((g) => g.unit))];
	const known = await candidates(tx, order, given);
	const marks = [...new Set(known.flatMap((k) => k.mark))];
	// Of two who put the same part in, the second waits here and then sees that it is taken: what is read after it is sent
	// after it, on the same connection.
	const alone = tx`SELECT pg_advisory_xact_lock(hashtext('part'), (id % 2147483647)::int)
		FROM (SELECT id FROM unnest(${marks}::bigint[]) id ORDER BY id) held`.execute();
	const [, held, units, inside] = await Promise.all([
		alone,
		heldElsewhere(tx, marks),
		readUnits(tx, order, serials),
		insideUnits(tx, known)
	]);
	const world: World = {
		order,
		at,
		known: group(known, (k) => String(k.n)),
		held: new Map(held.map((h) => [`${h.mark} ${h.place}`, h])),
		heldMarks: group(held, (h) => h.mark),
		inside: new Map(inside.map((i) => [i.mark, i])),
		slots: new Map(units.map((u) => [u.serial, u.slots]))
	};
	const chosen = given.map((g, n) => choose(world, g, n));
	await nameUnknown(tx, order, given, chosen);
	const outcomes = await checked(tx, order, chosen, at);
	const rows = outcomes.flatMap((o) => ('row' in o ? [o] : []));
	const ids = await insertRows(
		tx,
		by,
		order.id,
		rows.map((o) => o.row)
	);
	const ready = await settleUnits(tx, by, order, await readParts(tx, order, units), at);
	return {
		outcomes: outcomes.map((o): PartTaken => {
			if (!('row' in o)) return o;
			const { row: _row, ...rest } = o;
			return { ...rest, taken: true, row: ids[rows.indexOf(o)] };
		}),
		units: ready
	};
}

/** Says of units how far they are after something changed in them, and who was at them last. */
export async function settleUnits(
	tx: Tx,
	by: string,
	order: UnitOrder,
	units: readonly Unit[],
	{ station }: Pick<PutAt, 'station'>
): Promise<Unit[]> {
	const state = (u: Unit) => (unitComplete(u) ? 'ready' : 'open');
	const review = order.review || (station?.review ?? false);
	// Once a review is asked for a unit, by its item, its order or a station that it was at, it stays so.
	await tx`UPDATE unit_work u SET state = n.state, review = u.review OR ${review},
			station_id = coalesce(${station?.id ?? null}::bigint, u.station_id),
			said = CASE WHEN n.state = u.state THEN u.said ELSE '' END, changed_by = ${by}, changed_at = clock_timestamp()
		FROM unnest(${units.map((u) => u.serial)}::text[], ${units.map(state)}::text[]) n(serial, state)
		WHERE u.order_id = ${order.id} AND u.serial = n.serial`;
	return units.map((u) => ({
		...u,
		state: state(u),
		review: u.review || review,
		said: state(u) === u.state ? u.said : ''
	}));
}

// What was meant ------------------------------------------------------------------------------------

/** A lot or serial that the n-th part may be, at a place where it stands; none where it stands nowhere. */
interface Candidate {
	n: number;
	mark: string;
	itemId: string;
	itemName: string;
	kind: 'lot' | 'serial';
	number: string;
	place: string | null;
	site: string | null;
	qty: string;
}
const numberOf = (scan: Scan) => scan.serial ?? scan.lot ?? (scan.coded ? '' : scan.text.trim());

/** Every lot and serial of that number, whatever its item, and where it stands. */
const candidates = async (tx: Db, order: UnitOrder, given: readonly PartGiven[]): Promise<Candidate[]> => {
	const rows = await tx<Candidate[]>`
		SELECT w.n::int - 1 AS n, k.id AS mark, k.item_id AS "itemId", i.name AS "itemName", k.kind, k.number, p.code AS place, coalesce(s.code, p.code) AS site, coalesce(trim_scale(b.qty), 0)::text AS qty
		FROM unnest(${given.map((g) => numberOf(g.scan))}::text[], ${given.map((g) => g.scan.gtin ?? null)}::text[]) WITH ORDINALITY w(number, gtin, n)
		JOIN mark k ON k.looks = looks(w.number) AND k.number = w.number AND k.kind <> 'unmarked'
		JOIN item i ON i.id = k.item_id AND (w.gtin IS NULL OR i.gtin = w.gtin OR NOT i.id = ANY(${order.parts.map((p) => p.itemId)}::bigint[]))
		LEFT JOIN balance b ON b.mark_id = k.id AND b.qty > 0 AND NOT b.virtual LEFT JOIN place p ON p.id = b.place_id LEFT JOIN place s ON s.id = p.site_id
		WHERE w.number <> '' ORDER BY w.n, p.code`;
	return [...rows];
};

/** What sheets hold of a lot or serial at a place, not booked yet. */
interface Held {
	mark: string;
	place: string;
	qty: string;
	/** of the latest: whose, where, when */
	order: string;
	unit: string | null;
	by: string;
	at: Date;
}
const heldElsewhere = async (tx: Db, marks: readonly string[]): Promise<Held[]> => {
	if (!marks.length) return [];
	const rows = await tx<Held[]>`
		SELECT g.mark, g.place, g.qty, o.code AS order, g.unit, coalesce(p.name, g.changed_by) AS by, g.at FROM (
			SELECT DISTINCT ON (x.mark, x.place) x.*, trim_scale(sum(x.n) OVER (PARTITION BY x.mark, x.place))::text AS qty FROM (
				SELECT d.data ->> 'mark' AS mark, coalesce(d.data ->> 'place', '') AS place, (d.data ->> 'qty')::numeric AS n, d.data ->> 'unit' AS unit, d.order_id, d.changed_by, d.changed_at AS at
				FROM draft_row d WHERE d.data ->> 'mark' = ANY(${[...marks]}) AND d.data ? 'mark' AND d.data ->> 'qty' ~ '^[0-9]{1,13}([.][0-9]{1,12})?$') x
			ORDER BY x.mark, x.place, x.at DESC) g
		JOIN orders o ON o.id = g.order_id LEFT JOIN person p ON p.login = g.changed_by`;
	return [...rows];
};

/** Where serials that stand nowhere went last: into which unit, to whom. */
interface Inside {
	mark: string;
	to: string;
	unit: string | null;
	run: string | null;
	partner: string | null;
	at: Date;
}
async function insideUnits(tx: Db, known: readonly Candidate[]): Promise<Inside[]> {
	const gone = [...new Set(known.filter((k) => k.kind === 'serial' && !k.place).map((k) => k.mark))];
	if (!gone.length) return [];
	const rows = await tx<Inside[]>`
		SELECT w.mark, p.code AS to, u.number AS unit, r.code AS run, q.name AS partner, m.at FROM unnest(${gone}::bigint[]) w(mark)
		CROSS JOIN LATERAL (SELECT * FROM effective_movement m WHERE m.mark_id = w.mark ORDER BY m.at DESC, m.id DESC LIMIT 1) m
		JOIN place p ON p.id = m.to_place JOIN event e ON e.id = m.event_id LEFT JOIN partner q ON q.id = e.partner_id
		LEFT JOIN run r ON r.id = m.run_id LEFT JOIN mark u ON u.id = r.unit_mark`;
	return [...rows];
}

// Which slot, from where ----------------------------------------------------------------------------

interface World {
	order: UnitOrder;
	at: PutAt;
	known: ReadonlyMap<string, Candidate[]>;
	held: ReadonlyMap<string, Held>;
	heldMarks: ReadonlyMap<string, Held[]>;
	inside: ReadonlyMap<string, Inside>;
	/** grows with what is put in here */
	slots: Map<string, Slot<Pick<UnitPut, 'lineId' | 'mark' | 'qty'>>[]>;
}
/** A part with its slot and where it comes from. */
interface Chosen {
	unit: string;
	row: { lineId: string; data: RowData };
	item: string;
	said: string;
	notes: string[];
}
type Refusal = { taken: false; unit: string; said: string; asks?: 'bin'; unknown?: true };

function choose(world: World, g: PartGiven, n: number): Chosen | Refusal {
	const { order, at } = world;
	const number = numberOf(g.scan).slice(0, 60);
	const refuse = (said: string, more: Partial<Refusal> = {}): Refusal => ({
		taken: false,
		unit: g.unit,
		said,
		...more
	});
	if (!number) return refuse('The code names no lot and no serial. Scan the label with its number.');
	const all = world.known.get(String(n)) ?? [];
	if (!all.length) return refuse(`${number} is not known.`, { unknown: true });
	const slots = world.slots.get(g.unit) ?? [];
	const wanted = new Set(order.parts.filter(isScanned).map((p) => p.itemId));
	const mine = all.filter((k) => wanted.has(k.itemId));
	if (!mine.length)
		return refuse(
			`${number} is ${all[0].itemName}, which is no part of ${g.unit}. Put it back, and take the right part.`
		);
	const pick = mine.find((k) => slotFor(slots, k.itemId)) ?? mine[0];
	const slot = slotFor(slots, pick.itemId);
	const ofMark = mine.filter((k) => k.mark === pick.mark);
	const what = `${pick.kind === 'serial' ? '' : 'Lot '}${pick.number}`;
	const already = pick.kind === 'serial' ? world.heldMarks.get(pick.mark)?.[0] : undefined;
	const when = (d: Date) => showWhen(timeIn(order.zone, d));
	if (already)
		return refuse(
			already.unit === g.unit && already.order === order.code
				? `${what} is in ${g.unit} already. Scan the next part.`
				: already.unit
					? `${what} is inside ${already.unit} since ${when(already.at)} (${already.by}, not booked yet). Take another one, or undo it there.`
					: `${what} is picked for ${already.order} (${already.by}). Take another one, or take it out of that sheet.`
		);
	if (!slot) {
		const full = slots.find((s) => s.line.itemId === pick.itemId);
		return refuse(
			`${pick.itemName} is complete in ${g.unit}${full?.puts.length ? `: ${amount(full.in, full.line.unit)} of ${amount(full.line.per, full.line.unit)} are in` : ''}. To exchange one, undo it first.`
		);
	}
	if (pick.kind === 'serial' ? !slot.line.tracking.includes('serial') : slot.line.tracking.includes('serial'))
		return refuse(
			pick.kind === 'serial'
				? `${pick.itemName} is asked by its lot here. Scan the label with its lot.`
				: `${what} is a lot. ${pick.itemName} goes in by its serial: scan the label of the piece.`
		);
	const here = ofMark.filter((k) => k.place && k.site === order.site);
	if (!here.length) return refuse(whereElse(world, pick, ofMark, what, when));
	const from =
		here.find((k) => k.place === g.bin) ??
		(g.bin
			? undefined
			: (here.find((k) => k.place === at.station?.place) ?? (here.length === 1 ? here[0] : undefined)));
	if (!from)
		return refuse(
			g.bin
				? `${what} does not lie in ${g.bin} but in ${here.map((k) => k.place).join(', ')}. Scan the bin that it is taken from, then the part.`
				: `${what} lies in ${here.map((k) => k.place).join(' and ')}. Scan the bin that it is taken from, then the part once more.`,
			{ asks: 'bin' }
		);
	const { line } = slot;
	const read =
		pick.kind === 'serial' ? { qty: '1' } : g.qty ? parseQty(g.qty, line.decimals, line.unit) : { qty: slot.left };
	if ('problem' in read) return refuse(`${what}: ${read.problem}`);
	if (less(slot.left, read.qty))
		return refuse(
			`${what}: ${amount(read.qty, line.unit)} are more than ${g.unit} still takes of ${pick.itemName} (${amount(slot.left, line.unit)}). Give the right quantity.`
		);
	const free = rest(from.qty, world.held.get(`${from.mark} ${from.place}`)?.qty ?? '0');
	if (less(free, read.qty))
		return refuse(
			`Of lot ${pick.number} ${amount(free, line.unit)} ${free === '1' ? 'is' : 'are'} free at ${from.place}; ${amount(read.qty, line.unit)} go into ${g.unit}. ${free === '0' ? 'Scan another lot.' : `Give ${amount(free, line.unit)}, and another lot for the rest.`}`
		);
	taken(world, g.unit, slot, from, read.qty, order.code);
	return {
		unit: g.unit,
		item: line.item,
		row: {
			lineId: line.id,
			data: {
				mark: pick.mark,
				place: from.place!,
				unit: g.unit,
				qty: read.qty,
				...(g.how === 'scanned' ? { scanned: '0' } : {})
			}
		},
		said: `${pick.kind === 'serial' ? what : `${amount(read.qty, line.unit)} of lot ${pick.number}`} into ${g.unit}: ${pick.itemName}`,
		notes: []
	};
}

/** Why a part cannot be taken here: inside another unit, shipped, at another site. */
function whereElse(world: World, pick: Candidate, of: readonly Candidate[], what: string, when: (d: Date) => string) {
	const { order } = world;
	const there = of.filter((k) => k.place);
	if (there.length)
		return `${what} stands at ${there.map((k) => k.place).join(', ')}, not at ${order.site}. Transfer it first, or take one from here.`;
	const last = world.inside.get(pick.mark);
	if (last?.unit)
		return `${what} is inside ${last.unit} since ${when(last.at)}. Take it out there first, or take another one.`;
	const end = last ? virtualPlace(last.to) : null;
	if (last && end)
		return `${what} ${end.gone({ on: when(last.at), partner: last.partner, run: last.run, job: null })}. Check the label, or take another one.`;
	return `${pick.kind === 'serial' ? what : `Of lot ${pick.number}`} ${pick.kind === 'serial' ? 'stands nowhere' : 'nothing is left'} at ${order.site}. Receive it first, or take another one.`;
}

/** What was chosen counts for the parts that come after it. */
function taken(
	world: World,
	unit: string,
	slot: Slot<Pick<UnitPut, 'lineId' | 'mark' | 'qty'>>,
	from: Candidate,
	qty: string,
	order: string
) {
	const slots = world.slots.get(unit)!;
	const puts = [...slots.flatMap((s) => s.puts), { lineId: slot.line.id, mark: from.mark, qty }];
	world.slots.set(unit, slotsOf(world.order.parts, puts));
	const key = `${from.mark} ${from.place}`;
	const before = world.held.get(key);
	const now: Held = {
		mark: from.mark,
		place: from.place!,
		order,
		unit,
		by: 'this table',
		at: world.at.now,
		qty: add(before?.qty ?? '0', qty)
	};
	(world.held as Map<string, Held>).set(key, now);
	(world.heldMarks as Map<string, Held[]>).set(from.mark, [now]);
}

/** Says of numbers that nobody knows which ones come near. */
async function nameUnknown(tx: Db, order: UnitOrder, given: readonly PartGiven[], chosen: (Chosen | Refusal)[]) {
	const items = order.parts.map((p) => p.itemId);
	// A table with many mistakes says of the first ones what comes near: each asks the index by itself.
	const unknown = chosen.flatMap((c, n) => ('unknown' in c ? [{ c, n }] : [])).slice(0, 5);
	for (const { c, n } of unknown) {
		const number = numberOf(given[n].scan);
		const near = (await nearNumbers(tx, number, 3, items)).filter((x) => x.slips <= 2).map((x) => x.number);
		c.said = `${number.slice(0, 60)} is not known as a part of ${given[n].unit}. ${near.length ? `Was it ${near.join(' or ')}? ` : ''}Check the label, or receive it first.`;
	}
}

// The ledger's checks -------------------------------------------------------------------------------

/** Holds what was chosen against the checks that its booking will be held against. */
async function checked(
	tx: Db,
	order: UnitOrder,
	chosen: readonly (Chosen | Refusal)[],
	{ now }: PutAt
): Promise<(Chosen | Refusal)[]> {
	const mine = chosen.flatMap((c) => ('row' in c ? [c] : []));
	if (!mine.length) return [...chosen];
	const units = [...new Set(mine.map((c) => c.unit))];
	const event = readEvent({
		key: 'station',
		kind: 'use',
		at: now.toISOString(),
		document: order.code,
		order: order.id,
		runs: units.map((serial) => ({ code: runOfUnit(order, serial), unit: { item: order.made.item, serial } })),
		movements: mine.map((c) => ({
			item: c.item,
			mark: c.row.data.mark,
			qty: c.row.data.qty!,
			from: c.row.data.place!,
			to: '@process',
			run: runOfUnit(order, c.unit),
			role: 'use',
			evidence: c.row.data.scanned ? ('scanned' as const) : ('entered' as const)
		}))
	});
	// What is taken by a rule of before would be refused only when the unit is booked, and the person is gone then.
	const { findings } = await checkNow(tx, event);
	const at = new Map(mine.map((c, i) => [c, i]));
	const byLine = group(findings, (f) => f.line);
	return chosen.map((c) => {
		if (!('row' in c)) return c;
		const found = byLine.get(at.get(c)!) ?? [];
		const stop = found.find((f) => f.level === 'stop' && !f.open);
		if (stop) return { taken: false, unit: c.unit, said: sentence(stop) };
		const reason = found.find((f) => f.level === 'reason');
		if (reason)
			return {
				taken: false,
				unit: c.unit,
				said: `${sentence(reason)} A station takes no reasons: take another one, or enter it at the desk in the sheet of ${order.code}.`
			};
		return { ...c, notes: found.filter((f) => f.level === 'note').map(sentence) };
	});
}
