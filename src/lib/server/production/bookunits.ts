import type { Db, Sql, Tx } from '../database/connect.ts';
import { fillCells, type Chosen } from '../../core/allocation/cells.ts';
import { sentence } from '../../core/checks/check.ts';
import { expiring, keepEarliest, workedOut, type Expiring } from '../../core/checks/movements.ts';
import { group } from '../../core/group/group.ts';
import {
	MOST_MOVEMENTS,
	type Actor,
	type EventInput,
	type ParsedEvent,
	type ParsedMovement
} from '../../core/ledger/input.ts';
import { grouped } from '../../core/quantity/sign.ts';
import { isScanned } from '../../core/pairing/slots.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import { amount } from '../../core/quantity/quantity.ts';
import { dayIn, type Clock } from '../../core/time/clock.ts';
import { settleOrder } from '../document/orders.ts';
import { bookRead, checkNow, readEvent, type Booked } from '../ledger/book.ts';
import { marksById, onHand } from '../marks/onhand.ts';
import { termsFor } from '../marks/terms.ts';
import { takeUnitRows } from '../sheet/drafts.ts';
import { notify } from '../sheet/live.ts';
import { readUnits, runOfUnit, type Unit, type UnitOrder } from './units.ts';

/** What is used of a part without a number, with the output of a unit. */
export interface Used {
	lineId: string;
	itemName: string;
	unit: string;
	qty: string;
	/** nothing of it lies there: its booking will say so */
	short: string;
	from: string;
}
/** A unit with everything that its booking writes. */
export interface UnitMoves {
	unit: Unit;
	movements: ParsedMovement[];
	/** parts without numbers */
	used: Used[];
}

/**
 * What booking some units writes: the parts that were put in, those without numbers from the place of the station that the
 * unit was at (or, entered at a desk, wherever the site has them), and each unit itself.
 */
export async function movesOf(sql: Db, order: UnitOrder, units: readonly Unit[], now: Date): Promise<UnitMoves[]> {
	const plain = order.parts.filter((p) => !isScanned(p));
	const ids = plain.map((p) => p.itemId);
	const [stock, terms] = await Promise.all([
		plain.length ? onHand(sql, ids, order.id, { site: order.site }) : [],
		plain.length ? termsFor(sql, ids, { place: order.site, customer: null, purpose: 'use' }) : null
	]);
	const today = dayIn(order.zone, now);
	const plainly = new Map<string, Used[]>();
	const moves = new Map<string, ParsedMovement[]>();
	const push = <T>(map: Map<string, T[]>, key: string, ...list: T[]) => {
		const old = map.get(key);
		if (old) old.push(...list);
		else map.set(key, list);
	};
	// What one place gives is dealt out over all units that take it from there.
	for (const line of plain) {
		const mine = stock.filter((s) => s.itemId === line.itemId);
		for (const [place, list] of group([...units], (u) => u.station?.place ?? '')) {
			const there = place ? mine.filter((s) => s.place === place) : mine;
			const chosen = list.flatMap((u): Chosen[] =>
				u.slots
					.filter((s) => s.line.id === line.id)
					.flatMap((s) => s.puts.map((p) => ({ ...p, unit: u.serial, facts: {}, evidence: p.evidence })))
			);
			const { cells } = fillCells(
				list.map((u) => ({ unit: u.serial, need: line.per })),
				chosen,
				there,
				today,
				{ terms: terms?.(line.itemId), line: line.id, rest: false }
			);
			for (const cell of cells) {
				push(moves, cell.unit!, ...cell.picks.map((p) => used(line, p, runOfUnit(order, cell.unit!))));
				push(plainly, cell.unit!, {
					...{ lineId: line.id, itemName: line.itemName, unit: line.unit, qty: line.per, short: cell.short },
					from: [...new Set(cell.picks.map((p) => p.place))].join(', ') || place || order.site
				});
			}
		}
	}
	const { made } = order;
	const firstOf = await firstIn(sql, order, units, moves);
	return units.map((unit) => {
		const expiry = workedOut(made, null, today, false, firstOf(unit));
		const run = runOfUnit(order, unit.serial);
		const movements: ParsedMovement[] = [];
		for (const { line, puts } of unit.slots)
			if (isScanned(line)) for (const p of puts) movements.push(used(line, p, run));
		movements.push(...(moves.get(unit.serial) ?? []), {
			item: made.item,
			serial: unit.serial,
			qty: '1',
			from: '@process',
			to: order.place,
			run,
			role: 'make',
			orderLine: made.id,
			evidence: unit.evidence,
			expiresOn: expiry?.day ?? null
		});
		return { unit, movements, used: plainly.get(unit.serial) ?? [] };
	});
}

/** A part goes into its unit. Written out in full: twenty thousand of them are made in one act. */
const used = (
	line: { id: string; item: string },
	p: { mark: string; qty: string; place: string; evidence: ParsedMovement['evidence'] },
	run: string
): ParsedMovement => ({
	item: line.item,
	mark: p.mark,
	qty: p.qty,
	from: p.place,
	to: '@process',
	run,
	role: 'use',
	orderLine: line.id,
	evidence: p.evidence
});

/** Of each unit the first to expire of what goes in; asked only where its date comes from there. */
async function firstIn(
	sql: Db,
	order: UnitOrder,
	units: readonly Unit[],
	plain: ReadonlyMap<string, readonly ParsedMovement[]>
): Promise<(unit: Unit) => Expiring | null> {
	if (order.made.expiryFrom === 'life') return () => null;
	const marksOf = (u: Unit) => [
		...u.slots.flatMap((s) => s.puts.map((p) => p.mark)),
		...(plain.get(u.serial) ?? []).flatMap((m) => m.mark ?? [])
	];
	const known = await marksById(sql, [...new Set(units.flatMap(marksOf))]);
	const dated = new Map(known.map((k) => [k.id, expiring(k, k.expiresOn)]));
	const first = new Map<Unit, Expiring>();
	for (const u of units) for (const mark of marksOf(u)) keepEarliest(first, u, dated.get(mark));
	return (u) => first.get(u) ?? null;
}

/** Units as one event: what was given with it is read; its movements are what the database holds of them. */
function eventOf(
	order: UnitOrder,
	list: readonly UnitMoves[],
	at: Date,
	given: Pick<EventInput, 'key' | 'reason' | 'note'>
): ParsedEvent {
	// What goes in comes before what comes out, unit by unit.
	const movements = list.flatMap((m) => m.movements);
	if (movements.length > MOST_MOVEMENTS)
		throw new Problem(
			`${grouped(list.length)} units with their parts are ${grouped(movements.length)} movements; one booking has at most ${grouped(MOST_MOVEMENTS)}. Book fewer of them at once.`
		);
	const runs = list.map(({ unit }) => ({
		code: runOfUnit(order, unit.serial),
		unit: { item: order.made.item, serial: unit.serial }
	}));
	const head = { ...given, kind: 'output', at: at.toISOString(), document: order.code, order: order.id };
	return { ...readEvent({ ...head, movements: movements.slice(0, 1) }), runs, movements };
}

/** What stands in the way of booking some units, by their serials: every sentence that is no mere note. */
export async function whatStops(sql: Db, order: UnitOrder, list: readonly UnitMoves[], now: Date) {
	const out = new Map<string, { level: 'stop' | 'reason'; message: string }[]>();
	if (!list.length) return out;
	const owner = list.flatMap((m) => m.movements.map(() => m.unit.serial));
	for (const m of list)
		for (const u of m.used.filter((x) => x.short !== '0')) {
			const old = out.get(m.unit.serial) ?? [];
			out.set(m.unit.serial, [...old, { level: 'stop', message: shortSaid(u) }]);
		}
	try {
		const { findings } = await checkNow(sql, eventOf(order, list, now, { key: 'review' }));
		for (const f of findings) {
			if (f.level !== 'stop' && f.level !== 'reason') continue;
			const serial = owner[f.line] ?? list[0].unit.serial;
			out.set(serial, [...(out.get(serial) ?? []), { level: f.level, message: sentence(f) }]);
		}
	} catch (e) {
		if (!(e instanceof Problem)) throw e;
		out.set(list[0].unit.serial, [{ level: 'stop', message: e.message }]);
	}
	return out;
}
const shortSaid = (u: Used) =>
	`${u.itemName}: ${amount(u.short, u.unit)} too little at ${u.from}. Move some there, or enter it at the desk.`;

/** What units are booked with. */
export interface Booking {
	/** the same key again books nothing twice */
	key: string;
	/** of who may review: those that wait for a review are booked too */
	mayReview: boolean;
	/** serials that are left out */
	except?: readonly string[];
	reason?: string | null;
	clock?: Clock;
}

/**
 * Books units of an order whose parts are all in, in one event: their parts, and themselves. Nothing of them is booked
 * when one stands in the way; the sentence names it.
 * @param serials of units that are ready; null for all of the order's
 * @throws Problem 409 when something of them changed meanwhile, 422 when something stops it
 */
export async function bookUnits(
	sql: Sql,
	actor: Actor,
	order: UnitOrder,
	serials: readonly string[] | null,
	{ key, mayReview, except = [], reason, clock = () => new Date() }: Booking
): Promise<{ booked: Booked; units: number }> {
	const now = clock();
	const ready = await sql<{ serial: string }[]>`
		SELECT serial FROM unit_work WHERE order_id = ${order.id} AND state = 'ready' ${serials ? sql`AND serial = ANY(${[...serials]})` : sql``}
			${mayReview ? sql`` : sql`AND NOT review`} AND NOT serial = ANY(${[...except]}) ORDER BY serial COLLATE natural_order`;
	const units = await readUnits(
		sql,
		order,
		ready.map((r) => r.serial)
	);
	if (!units.length) {
		const known = await knownUnits(sql, key);
		if (known) return known;
		throw new Problem('No unit of it is ready to be booked. Look at the review again.', 409);
	}
	const list = await movesOf(sql, order, units, now);
	const lacking = list.flatMap((m) =>
		m.used
			.filter((u) => u.short !== '0')
			.map((u): Fault => ({
				message: `${m.unit.serial}: ${shortSaid(u)}`,
				at: m.unit.serial,
				code: 'short',
				level: 'stop'
			}))
	);
	if (lacking.length) throw new Problem(lacking.slice(0, 20));
	const by = [...new Set(units.flatMap((u) => u.slots.flatMap((s) => s.puts.map((p) => p.by))))].slice(0, 20);
	const owner = list.flatMap((m) => m.movements.map(() => m.unit.serial));
	const note = by.length ? `Parts put in by ${by.join(', ')}.` : null;
	const booked = await bookRead(sql, actor, eventOf(order, list, now, { key, reason: reason || null, note }), {
		request: { order: order.code, units: serials ? [...serials].sort() : 'all', except: [...except].sort() },
		clock,
		before: (tx) => take(tx, order, units),
		after: async (tx) => {
			await settleOrder(tx, order.id);
			await notify(tx, order.code);
		}
	}).catch((e) => {
		throw e instanceof Problem ? namingUnits(e, owner) : e;
	});
	return { booked, units: units.length };
}

/** What was booked under a key before, where nothing is left to be booked. */
async function knownUnits(sql: Db, key: string): Promise<{ booked: Booked; units: number } | null> {
	const [known] = await sql<{ id: string; movements: number; units: number }[]>`
		SELECT e.id, (SELECT count(*)::int FROM movement m WHERE m.event_id = e.id) AS movements,
			(SELECT count(*)::int FROM movement m WHERE m.event_id = e.id AND m.role = 'make') AS units FROM event e WHERE e.key = ${key}`;
	return known ? { booked: { ...known, again: true, notes: [] }, units: known.units } : null;
}

/** A refusal with the unit that each fault is about. */
const namingUnits = (e: Problem, owner: readonly string[]): Problem =>
	new Problem(
		e.faults.map((f) => {
			const unit = owner[Number(/^movements\[(\d+)\]/.exec(f.at ?? '')?.[1] ?? -1)];
			return unit ? { ...f, message: `${unit}: ${f.message}`, at: unit } : f;
		}),
		e.status
	);

/** Takes units and their parts out of the sheet, if they are still what was read. @throws Problem 409 when they are not */
async function take(tx: Tx, order: UnitOrder, units: readonly Unit[]): Promise<void> {
	const serials = units.map((u) => u.serial);
	// The unit first: whoever puts a part into it holds it.
	const taken = await tx<{ state: string }[]>`
		DELETE FROM unit_work WHERE order_id = ${order.id} AND serial = ANY(${serials}) RETURNING state`;
	const seen = new Set(units.flatMap((u) => u.slots.flatMap((s) => s.puts.map((p) => `${p.id} ${p.version}`))));
	const rows = await takeUnitRows(tx, order.id, serials);
	const same = rows.length === seen.size && rows.every((r) => seen.has(r));
	if (!same || taken.length !== units.length || taken.some((u) => u.state !== 'ready'))
		throw new Problem(
			'Somebody changed one of these units at the same moment. Look at them again, and book once more.',
			409
		);
}
