import Fraction from 'fraction.js';
import type { Tx } from '../database/connect.ts';
import type { Fault } from '../../core/problem/problem.ts';
import { show } from '../../core/quantity/quantity.ts';
import { parseQty } from '../../core/quantity/quantity.ts';
import { showDay } from '../../core/dates/dates.ts';
import { checkFacts, type AskedFact, type Fact } from '../../core/facts/fact.ts';
import type { ParsedEvent } from './input.ts';
import type { Item, Line, Mark, Marks, Place, Run } from './resolve.ts';

export const named = (l: { mark: { kind: string; lot_no: string | null; serial_no: string | null }; item: Item }) =>
	l.mark.kind === 'serial'
		? `Serial ${l.mark.serial_no}`
		: l.mark.kind === 'lot'
			? `Lot ${l.mark.lot_no}`
			: `Unmarked ${l.item.code}`;
const where = (l: Line) => `movements[${l.index}]`;

/** The step of the marking rule that a movement is. */
export function stepOf(kind: string, from: Place, to: Place, role?: string | null): string {
	if (role === 'make') return 'production output';
	if (role) return 'production use';
	if (from.code === '@supplier') return 'receipt';
	if (from.code === '@customer') return 'customer return';
	if (to.code === '@customer') return 'shipment';
	if (to.code === '@supplier') return 'supplier return';
	if (kind === 'count') return 'count';
	if (from.virtual || to.virtual) return 'adjustment';
	return from.site === to.site ? 'move' : 'transfer';
}

/** Faults that a line carries in itself: quantity, numbers against the marking rule (I6), order within the event. */
export function checkLines(event: ParsedEvent, lines: Line[], marks: Marks): Fault[] {
	const faults: Fault[] = [];
	const say = (l: Line, message: string, rule: string) => faults.push({ message, at: where(l), rule });
	const taken = new Set<string>();
	const arrived = new Set<string>();
	const made = new Set<Run>();
	const numbering = numberingRuns(lines);
	for (const l of lines) {
		const q = parseQty(l.given.qty, l.item.decimals, l.item.unit);
		if ('problem' in q) {
			say(l, `${l.item.code}: ${q.problem}`, 'quantity');
			continue;
		}
		l.given.qty = q.qty;
		if (l.from.code === l.to.code) say(l, `${named(l)} is moved from ${l.from.code} to itself. Give another place.`, 'place'); // prettier-ignore
		if (l.mark.kind === 'serial') {
			if (q.qty !== '1') say(l, `${named(l)} is one piece; ${q.qty} were given. Give each piece a serial of its own.`, 'I4'); // prettier-ignore
			const key = l.mark.id + l.from.code;
			if (taken.has(key)) say(l, `${named(l)} is in here twice. Take one out.`, 'twice');
			taken.add(key);
		}
		if (!!l.run !== !!l.given.role) say(l, `${named(l)}: a run and a role go together. Give both or none.`, 'role'); // prettier-ignore
		if (l.run) {
			if (l.given.role === 'make') made.add(l.run);
			else if (made.has(l.run))
				say(l, `${named(l)} goes into run ${l.run.code} after something came out in the same event. List what goes in first.`, 'order'); // prettier-ignore
			if (l.run.closed) say(l, `Run ${l.run.code} is closed. Start another run.`, 'closed');
			if (l.given.role === 'detach' && !l.run.unit)
				say(l, `Only a finished unit gives a component back; run ${l.run.code} is pooled. Undo the use instead.`, 'role'); // prettier-ignore
			if (l.given.role === 'make' && l.run.unit && l.run.unit.id !== l.mark.id)
				say(l, `Run ${l.run.code} makes ${l.run.unit.serial_no}, not ${l.mark.serial_no ?? l.mark.lot_no}. Give each unit a run of its own.`, 'run'); // prettier-ignore
		}
		checkNumbers(event, l, arrived.has(l.mark.id), !!l.run && numbering.has(l.run), marks.parentOf(l.mark), say);
		if (l.from.virtual) arrived.add(l.mark.id);
	}
	return faults;
}

/**
 * Runs that only give numbers: what goes in and what comes out is the same item. They are no production, so its steps of
 * the marking rule ask nothing there.
 */
export function numberingRuns(lines: Line[]): Set<Run> {
	const runs = new Map<Run, { items: Set<string>; roles: Set<string> }>();
	for (const l of lines) {
		if (!l.run) continue;
		const seen = runs.get(l.run) ?? { items: new Set(), roles: new Set() };
		seen.items.add(l.item.id);
		seen.roles.add(l.given.role ?? '');
		runs.set(l.run, seen);
	}
	const only = ([run, { items, roles }]: [Run, { items: Set<string>; roles: Set<string> }]) => items.size === 1 && !run.unit && roles.has('use') && roles.has('make'); // prettier-ignore
	return new Set([...runs].filter(only).map(([run]) => run));
}

function checkNumbers(
	event: ParsedEvent,
	l: Line,
	arrived: boolean,
	numbering: boolean,
	lot: Mark | undefined,
	say: (l: Line, m: string, r: string) => void
) {
	const { item, mark, given } = l;
	const { tracking } = item;
	const carriesLot = tracking.includes('lot');
	const carriesSerial = tracking.includes('serial');
	if (given.lot && !carriesLot) say(l, `${item.code} carries no lot; take lot ${given.lot} out.`, 'I6');
	if (given.serial && !carriesSerial) say(l, `${item.code} carries no serial; take serial ${given.serial} out.`, 'I6'); // prettier-ignore
	const step = stepOf(event.kind, l.from, l.to, given.role);
	const rule = (!numbering && item.rules?.[step]) || { lot: 'not asked', serial: 'not asked', expiry: 'not asked' };
	const missing = (what: 'serial' | 'lot') => {
		if (rule[what] === 'required') say(l, `${item.code} needs a ${what} at ${step}: ${show(given.qty)} ${item.unit} have none. Give each a ${what}.`, 'I6'); // prettier-ignore
		else if (!event.reason) say(l, `${item.code} is asked for a ${what} at ${step}. Give it, or a reason for leaving it out.`, 'reason'); // prettier-ignore
	};
	if (rule.serial !== 'not asked' && carriesSerial && !given.serial) missing('serial');
	if (rule.lot !== 'not asked' && carriesLot && !given.lot && !(given.serial && !mark.fresh)) missing('lot');
	const arrives = l.from.virtual && given.role !== 'detach' && l.from.code !== '@customer';
	if (mark.fresh && mark.kind !== 'unmarked' && !arrives && !arrived)
		say(l, `${named(l)} of ${item.code} is not known here. Check the number, or receive it first.`, 'unknown');
	// A date that is recorded, of the serial or of its lot, is not asked again.
	if (
		rule.expiry !== 'not asked' &&
		mark.kind !== 'unmarked' &&
		!given.expiresOn &&
		!mark.expires_on &&
		!lot?.expires_on
	) {
		if (rule.expiry === 'required') say(l, `${named(l)} needs an expiry date at ${step}. Type it from the label.`, 'expiry'); // prettier-ignore
		else if (!event.reason) say(l, `${named(l)} is asked for an expiry date at ${step}. Give it, or a reason for leaving it out.`, 'reason'); // prettier-ignore
	}
	if (!mark.fresh) {
		if (given.expiresOn && mark.expires_on && given.expiresOn !== mark.expires_on)
			say(l, `${named(l)} is recorded to expire ${showDay(mark.expires_on)}, not ${showDay(given.expiresOn)}. Correct the lot, or use another number.`, 'expiry'); // prettier-ignore
		if (given.madeOn && mark.made_on && given.madeOn !== mark.made_on)
			say(l, `${named(l)} is recorded as made on ${showDay(mark.made_on)}, not ${showDay(given.madeOn)}. Correct the lot, or use another number.`, 'made on'); // prettier-ignore
	}
	const leaves = l.to.code === '@customer' || given.role === 'use';
	if (leaves && mark.status !== 'released')
		say(l, `${named(l)} is ${mark.status === 'held' ? 'on hold' : mark.status} and stays here. Take another, or have it released.`, 'held'); // prettier-ignore
	if (leaves && mark.expires_on && mark.expires_on < event.at.slice(0, 10) && !event.reason)
		say(l, `${named(l)} expired on ${showDay(mark.expires_on)}. Take another, or give a reason.`, 'expired');
}

/** The lot or serial that a fact of a movement is kept with: the lot, where the fact is the lot's and there is one. */
export const bearer = (fact: Pick<Fact, 'per'>, l: Line, marks: Marks): Mark =>
	fact.per === 'lot' && l.mark.kind === 'serial' ? (marks.parentOf(l.mark) ?? l.mark) : l.mark;

/** Faults in the facts that movements give, or should give by the marking rule at their step. */
export function checkLineFacts(event: ParsedEvent, lines: Line[], marks: Marks, facts: Map<string, Fact>): Fault[] {
	// Nothing asked and nothing given: nothing to look at, line by line.
	if (!facts.size) return [];
	const faults: Fault[] = [];
	const numbering = numberingRuns(lines);
	for (const l of lines) {
		const at = where(l);
		if (l.mark.kind === 'unmarked') {
			if (Object.keys(l.given.facts ?? {}).length) faults.push({ message: `${l.item.code} has no lot or serial here that a fact could be kept with. Give its number, or leave the fact out.`, at, rule: 'fact' }); // prettier-ignore
			continue;
		}
		const asks =
			(!(l.run && numbering.has(l.run)) && l.item.asks?.[stepOf(event.kind, l.from, l.to, l.given.role)]) || {};
		const codes = new Set([...Object.keys(asks), ...Object.keys(l.given.facts ?? {})]);
		if (!codes.size) continue;
		const asked = [...codes].map((code): AskedFact => ({ ...facts.get(code)!, how: asks[code] ?? 'asked' }));
		const known = Object.fromEntries(asked.flatMap((f) => (bearer(f, l, marks).facts[f.code] ? [[f.code, bearer(f, l, marks).facts[f.code]]] : []))); // prettier-ignore
		const { values, findings } = checkFacts(asked, l.given.facts ?? {}, known);
		l.given.facts = values;
		for (const f of findings) {
			if (f.level === 'stop') faults.push({ message: `${named(l)}: ${f.message}`, at, rule: 'fact' });
			else if (f.level === 'reason' && !event.reason) faults.push({ message: `${named(l)}: ${f.message}`, at, rule: 'reason' }); // prettier-ignore
		}
	}
	return faults;
}

interface Standing {
	mark: string;
	place: string;
	code: string;
	virtual: boolean;
	qty: string;
}

/**
 * Faults against what stands where: too little at a place (I3, with who took it and when), a serial that is already
 * somewhere (I4), a component that is not in its unit, a unit made twice.
 */
export async function checkStock(tx: Tx, lines: Line[]): Promise<Fault[]> {
	const faults: Fault[] = [];
	const marks = [...new Set(lines.filter((l) => !l.mark.fresh).map((l) => l.mark.id))];
	const standing = new Map<string, Standing[]>();
	if (marks.length)
		for (const b of await tx<Standing[]>`
			SELECT b.mark_id AS mark, b.place_id AS place, p.code, b.virtual, trim_scale(b.qty)::text AS qty
			FROM balance b JOIN place p ON p.id = b.place_id WHERE b.mark_id = ANY(${marks}::bigint[]) AND b.qty <> 0`) {
			if (!standing.has(b.mark)) standing.set(b.mark, []);
			standing.get(b.mark)!.push(b);
		}
	// Net change at each real place, so that what comes and goes within one event balances out.
	const net = new Map<string, { line: Line; place: Place; qty: Fraction; asked: Fraction }>();
	const move = (line: Line, place: Place, qty: Fraction) => {
		if (place.virtual) return;
		const key = `${line.mark.id} ${place.id}`;
		const n = net.get(key) ?? { line, place, qty: new Fraction(0), asked: new Fraction(0) };
		n.qty = n.qty.add(qty);
		if (qty.s < 0n) {
			n.asked = n.asked.sub(qty);
			n.line = line;
		}
		net.set(key, n);
	};
	for (const l of lines) {
		move(l, l.from, new Fraction(l.given.qty).neg());
		move(l, l.to, new Fraction(l.given.qty));
	}
	const short: { line: Line; place: Place; have: string; asked: string }[] = [];
	for (const { line, place, qty, asked } of net.values()) {
		if (qty.s >= 0n) continue;
		const have = standing.get(line.mark.id)?.find((b) => b.place === place.id)?.qty ?? '0';
		if (qty.add(have).s < 0n) short.push({ line, place, have, asked: asked.toString(12) });
	}
	if (short.length) faults.push(...(await explainShortage(tx, short.slice(0, 50))));
	faults.push(...(await checkArrivals(tx, lines)));
	faults.push(...(await checkContained(tx, lines)));
	return faults;
}
/** I4: a serial that comes in from outside must be outside: new, or gone to just where it comes from. */
async function checkArrivals(tx: Tx, lines: Line[]): Promise<Fault[]> {
	const arriving = lines.filter(
		(l) => l.mark.kind === 'serial' && !l.mark.fresh && l.from.virtual && l.given.role !== 'detach'
	);
	if (!arriving.length) return [];
	const last = await tx<
		{
			mark: string;
			code: string;
			virtual: boolean;
			at: string;
			partner: string | null;
			run: string | null;
		}[]
	>`
		SELECT w.mark, p.code, p.virtual, to_char(m.at, 'YYYY-MM-DD') AS at, q.name AS partner, r.code AS run
		FROM unnest(${arriving.map((l) => l.mark.id)}::bigint[]) w(mark)
		CROSS JOIN LATERAL (SELECT * FROM effective_movement m WHERE m.mark_id = w.mark ORDER BY m.at DESC, m.id DESC LIMIT 1) m
		JOIN place p ON p.id = m.to_place JOIN event e ON e.id = m.event_id
		LEFT JOIN partner q ON q.id = e.partner_id LEFT JOIN run r ON r.id = m.run_id`;
	const byMark = new Map(last.map((x) => [x.mark, x]));
	return arriving.flatMap((l): Fault[] => {
		const x = byMark.get(l.mark.id);
		const refuse = (why: string) => [{ message: `${named(l)} ${why}`, at: where(l), rule: 'I4' }];
		if (!x) return l.from.code === '@customer' ? refuse('was never shipped, so it cannot come back. Check the number.') : []; // prettier-ignore
		if (lines.some((o) => o.index < l.index && o.mark === l.mark && o.to.code === l.from.code)) return [];
		const since = showDay(x.at);
		if (!x.virtual) return refuse(`is already on hand at ${x.code} since ${since}. Scan another, or open it.`);
		if (x.code === l.from.code && l.given.role !== 'make') return [];
		const state: Record<string, string> = {
			'@customer': `was shipped to ${x.partner ?? 'a customer'} on ${since}`,
			'@process': `was built in on ${since} (run ${x.run})`,
			'@scrap': `was scrapped on ${since}`,
			'@adjust': `was adjusted away on ${since}`,
			'@supplier': `went back to ${x.partner ?? 'its supplier'} on ${since}`
		};
		return refuse(`${state[x.code]}. Check the number.`);
	});
}

/** A component can only be taken out of the unit it is in. */
async function checkContained(tx: Tx, lines: Line[]): Promise<Fault[]> {
	const detached = lines.filter((l) => l.given.role === 'detach' && l.run?.id);
	if (!detached.length)
		return lines
			.filter((l) => l.given.role === 'detach' && l.run && !l.run.id)
			.map((l) => ({ message: `${named(l)} is not in run ${l.run!.code}. Check the unit.`, at: where(l), rule: 'contained' })); // prettier-ignore
	const held = await tx<{ run: string; mark: string; qty: string }[]>`
		SELECT run_id AS run, mark_id AS mark, sum(CASE role WHEN 'use' THEN qty WHEN 'detach' THEN -qty ELSE 0 END)::text AS qty
		FROM effective_movement WHERE run_id = ANY(${detached.map((l) => l.run!.id!)}::bigint[]) GROUP BY 1, 2`;
	return detached.flatMap((l) => {
		const h = held.find((x) => x.run === l.run!.id && x.mark === l.mark.id);
		const there = new Fraction(h?.qty ?? 0);
		return there.compare(l.given.qty) >= 0
			? []
			: [{ message: `${named(l)}: ${show(there.toString(12))} ${l.item.unit} are in ${l.run!.unit?.serial_no}, ${show(l.given.qty)} are to come out. Check the unit.`, at: where(l), rule: 'contained' }]; // prettier-ignore
	});
}

/** Says what stands there instead, and who took it and when. */
async function explainShortage(
	tx: Tx,
	short: { line: Line; place: Place; have: string; asked: string }[]
): Promise<Fault[]> {
	const ids = short.map((s) => s.line.mark.id);
	const takers = await tx<{ mark: string; place: string; to: string; by: string; at: string; doc: string | null }[]>`
		SELECT w.mark, w.place, p.code AS to, coalesce(n.name, e.recorded_by) AS by, to_char(e.recorded_at, 'YYYY-MM-DD HH24:MI') AS at, e.document AS doc
		FROM unnest(${ids}::bigint[], ${short.map((s) => s.place.id)}::bigint[]) w(mark, place)
		CROSS JOIN LATERAL (SELECT * FROM effective_movement m WHERE m.mark_id = w.mark AND m.from_place = w.place ORDER BY m.id DESC LIMIT 1) m
		JOIN event e ON e.id = m.event_id JOIN place p ON p.id = m.to_place LEFT JOIN person n ON n.login = e.recorded_by`;
	const elsewhere = await tx<{ mark: string; code: string; qty: string }[]>`
		SELECT b.mark_id AS mark, p.code, trim_scale(b.qty)::text AS qty FROM balance b JOIN place p ON p.id = b.place_id
		WHERE b.mark_id = ANY(${ids}::bigint[]) AND b.qty > 0 AND NOT b.virtual ORDER BY p.code`;
	return short.map(({ line, place, have, asked }) => {
		const taker = takers.find((t) => t.mark === line.mark.id && t.place === place.id);
		const others = elsewhere.filter((e) => e.mark === line.mark.id && e.code !== place.code);
		const unit = line.item.unit;
		const there =
			line.mark.kind === 'serial'
				? `${named(line)} is not at ${place.code}.`
				: `${named(line)}: ${show(have)} ${unit} at ${place.code}, ${show(asked)} asked for.`;
		const went = taker
			? ` ${taker.by} took ${line.mark.kind === 'serial' ? 'it' : 'from it'} on ${taker.at} (${taker.doc ?? gone[taker.to] ?? `to ${taker.to}`}).`
			: '';
		const out = others.length
			? ` There is ${others.map((o) => `${show(o.qty)} at ${o.code}`).join(', ')}.`
			: ' Take another, or check the number.';
		return { message: there + went + out, at: where(line), rule: 'I3' };
	});
}
const gone: Record<string, string> = {
	'@customer': 'shipped',
	'@process': 'used',
	'@scrap': 'scrapped',
	'@adjust': 'adjusted',
	'@supplier': 'sent back'
};
