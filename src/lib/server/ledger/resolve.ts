import type { Db } from '../database/connect.ts';
import * as say from '../../core/checks/catalogue.ts';
import { faultFrom } from '../../core/checks/check.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import type { Facts } from '../../core/facts/fact.ts';
import type { ParsedEvent, ParsedMovement } from '../../core/ledger/input.ts';
import type { Item, Line, Mark, Run } from '../../core/ledger/line.ts';
import type { Catalogue, Known } from './catalogue.ts';

/** What an event may bring into being besides numbers and runs. */
export interface Create {
	places?: boolean;
	partners?: boolean;
}
/** Makes the places and partners that an event names and that are not known yet, as far as it may. */
export async function createNames(tx: Db, event: ParsedEvent, create: Create): Promise<void> {
	if (create.places) await createPlaces(tx, placesIn(event));
	if (create.partners) for (const code of partnersIn(event)) await createPartner(tx, code, event.kind);
}
/** Codes of the partner that it is with, and of those that own what arrives. */
const partnersIn = (event: ParsedEvent): string[] => [
	...new Set([event.partner, ...(event.movements ?? []).map((m) => m.owner)].flatMap((c) => c || []))
];
const placesIn = (event: ParsedEvent): string[] => [...new Set((event.movements ?? []).flatMap((m) => [m.from, m.to]))];

/**
 * Finds every item, place, partner, job and fact that an event names, a set at a time.
 * @throws Problem naming each one unknown
 */
export async function resolveNames(tx: Db, event: ParsedEvent, catalogue: Catalogue): Promise<Known> {
	const movements = event.movements ?? [];
	const known = await catalogue.read(tx, {
		items: [...movements.map((m) => m.item), ...(event.runs ?? []).flatMap((r) => r.unit?.item ?? [])],
		places: placesIn(event),
		facts: movements.flatMap((m) => Object.keys(m.facts ?? {})),
		partners: partnersIn(event),
		job: event.job ?? null
	});
	const faults: Fault[] = [];
	if (event.partner && !known.partners.has(event.partner))
		faults.push(faultFrom(say.noSuch, { what: 'partner', code: event.partner }, 'partner'));
	if (event.job && !known.jobs.has(event.job))
		faults.push(faultFrom(say.noSuch, { what: 'job', code: event.job }, 'job'));
	else if (event.job && known.jobs.get(event.job)) faults.push(faultFrom(say.closedJob, { job: event.job }, 'job'));
	faults.push(...unknownNames(event, known));
	if (faults.length) throw new Problem(faults.slice(0, 200));
	return known;
}

function unknownNames(event: ParsedEvent, found: Known): Fault[] {
	const faults: Fault[] = [];
	const item = (code: string, at: string) => {
		if (!found.items.has(code)) faults.push(faultFrom(say.noSuch, { what: 'item', code }, at));
	};
	(event.movements ?? []).forEach((m, i) => {
		const at = `movements[${i}]`;
		item(m.item, at);
		for (const code of Object.keys(m.facts ?? {}))
			if (!found.facts.has(code)) faults.push(faultFrom(say.noSuch, { what: 'fact', code }, at));
		if (m.owner && !found.partners.has(m.owner))
			faults.push(faultFrom(say.noSuch, { what: 'partner', code: m.owner }, at));
		for (const code of [m.from, m.to])
			if (!found.places.has(code)) faults.push(faultFrom(say.noSuch, { what: 'place', code }, at));
		// What goes to a job says to which; a job is named where something goes to it.
		if ((m.to === '@job' || m.from === '@job') && !event.job) faults.push(faultFrom(say.jobMissing, {}, at));
	});
	for (const r of event.runs ?? []) {
		if (!r.unit) continue;
		item(r.unit.item, `run ${r.code}`);
		const of = found.items.get(r.unit.item);
		if (of && !of.tracking.includes('serial'))
			faults.push(faultFrom(say.unitWithoutSerials, { run: r.code, item: of.code }, `run ${r.code}`));
	}
	return faults;
}

async function createPlaces(tx: Db, codes: string[]) {
	const real = codes.filter((c) => /^[A-Za-z0-9._-]{1,20}(\/[A-Za-z0-9._-]{1,20})?$/.test(c));
	const sites = [...new Set(real.map((c) => c.split('/')[0]))];
	await tx`INSERT INTO place (code, name) SELECT c, c FROM unnest(${sites}::text[]) c ON CONFLICT DO NOTHING`;
	await tx`INSERT INTO place (code, name, site_id) SELECT c, split_part(c, '/', 2), s.id
		FROM unnest(${real.filter((c) => c.includes('/'))}::text[]) c JOIN place s ON s.code = split_part(c, '/', 1) ON CONFLICT DO NOTHING`;
}
const createPartner = (tx: Db, code: string, kind: string) => tx`
	INSERT INTO partner (code, name, kind) VALUES (${code}, ${code}, ${kind === 'receipt' || kind === 'supplier return' ? 'supplier' : 'customer'})
	ON CONFLICT DO NOTHING`;

/** The facts of a mark that has none: one for all of them, never changed. */
const NONE: Facts = Object.freeze({});
const slot = (kind: string, item: string, number = '') => `${kind} ${item} ${number}`;
/** How much of a mark stands at a real place. */
export interface Standing {
	place: string;
	code: string;
	qty: string;
}
const readStanding = (text: string): Standing => {
	const [place, qty, code] = text.split(' ');
	return { place, code, qty };
};
/** What a movement or a run names: an item's lot, serial or both, or a mark by its id. */
export interface Wanted {
	item: Item;
	lot?: string | null;
	serial?: string | null;
	mark?: string | null;
}

/**
 * Finds the marks that movements name, with the lots of those serials; those not known yet are prepared, and stand for
 * themselves by -1, -2, … until they are written. One statement, whatever the count.
 */
export class Marks {
	private known = new Map<string, Mark>();
	private byId = new Map<string, Mark>();
	private parents = new Map<Mark, Mark>();
	readonly fresh: Mark[] = [];
	/** anything in the firm is on hold, quarantined or rejected */
	stopping = false;
	/** is anything promised in the firm? Where nothing is, nobody asks of each number */
	promising = false;
	/** what stands of each at real places, by its id */
	readonly standing = new Map<string, Standing[]>();

	static async load(tx: Db, wanted: readonly Wanted[]): Promise<Marks> {
		const marks = new Marks();
		const named = wanted.filter((w) => !w.mark);
		const serials = named.filter((w) => w.serial);
		// Thousands of serials name the same lot.
		const lots = [...new Map(named.flatMap((w) => (w.lot ? [[`${w.item.id} ${w.lot}`, w] as const] : []))).values()];
		const bare = [...new Set(named.filter((w) => !w.lot && !w.serial).map((w) => w.item.id))];
		const ids = [...new Set(wanted.flatMap((w) => w.mark ?? []))];
		const found = await tx<(Mark & { standing: string | null; stopping: boolean; promising: boolean })[]>`
			SELECT *, (SELECT EXISTS (SELECT 1 FROM mark WHERE status <> 'released')) AS stopping,
				(SELECT EXISTS (SELECT 1 FROM promise WHERE released_at IS NULL AND taken < qty)) AS promising FROM named_marks(${serials.map((w) => w.item.id)}::bigint[], ${serials.map((w) => w.serial!)}::text[],
				${lots.map((w) => w.item.id)}::bigint[], ${lots.map((w) => w.lot!)}::text[], ${bare}::bigint[], ${ids}::bigint[])`;
		for (const { standing, stopping, promising, ...mark } of found) {
			marks.stopping = stopping;
			marks.promising = promising;
			if (marks.byId.has(mark.id)) continue;
			marks.byId.set(mark.id, mark);
			marks.known.set(slot(mark.kind, mark.item_id, mark.serial_no ?? mark.lot_no ?? ''), mark);
			if (standing) marks.standing.set(mark.id, standing.split(',').map(readStanding));
		}
		for (const w of wanted) {
			if (w.mark) continue;
			const lot = w.lot ? marks.prepare('lot', w.item, w.lot) : null;
			if (w.serial) marks.prepare('serial', w.item, w.serial, lot);
			else if (!lot) marks.prepare('unmarked', w.item, '');
		}
		for (const [mark, parent] of marks.parents) mark.parent_id = parent.id;
		return marks;
	}

	/** The mark that is wanted; null only for an id that is none. */
	find(w: Wanted): Mark | null {
		if (w.mark) return this.byId.get(w.mark) ?? null;
		const key = w.serial
			? slot('serial', w.item.id, w.serial)
			: w.lot
				? slot('lot', w.item.id, w.lot)
				: slot('unmarked', w.item.id);
		return this.known.get(key) ?? null;
	}

	/** The lot that a serial belongs to. */
	parentOf = (mark: Mark): Mark | null =>
		this.parents.get(mark) ?? (mark.parent_id ? (this.byId.get(mark.parent_id) ?? null) : null);

	private prepare(kind: Mark['kind'], item: Item, number: string, parent: Mark | null = null): Mark {
		const key = slot(kind, item.id, number);
		const there = this.known.get(key);
		if (there) return there;
		// Written out in full: ten thousand of them are made in one receipt.
		const mark: Mark = {
			id: String(-1 - this.fresh.length),
			item_id: item.id,
			kind,
			lot_no: kind === 'lot' ? number : null,
			serial_no: kind === 'serial' ? number : null,
			parent_id: null,
			supplier_lot: null,
			supplier_serial: null,
			supplier_warranty_until: null,
			facts: NONE,
			made_on: null,
			expires_on: null,
			status: 'released',
			owner: null,
			version: 0,
			fresh: true
		};
		if (parent) this.parents.set(mark, parent);
		this.known.set(key, mark);
		this.fresh.push(mark);
		return mark;
	}
}

/**
 * Finds or prepares the runs that an event declares or names.
 * @throws Problem naming each run that is not there, is another one, or whose unit has a run of its own already
 */
export async function resolveRuns(
	tx: Db,
	event: ParsedEvent,
	items: ReadonlyMap<string, Item>,
	marks: Marks
): Promise<Map<string, Run>> {
	const movements = event.movements ?? [];
	const codes = [...new Set([...(event.runs ?? []).map((r) => r.code), ...movements.flatMap((m) => m.run ?? [])])];
	const runs = new Map<string, Run>();
	if (!codes.length) return runs;
	const units = (event.runs ?? []).flatMap((r) =>
		r.unit ? (marks.find({ item: items.get(r.unit.item)!, serial: r.unit.serial }) ?? []) : []
	);
	const known = units.filter((u) => !u.fresh).map((u) => u.id);
	const rows = await tx<
		(Mark & { run: string; code: string; planned: string | null; last: string | null; closed: boolean })[]
	>`
		SELECT r.id AS run, r.code, r.planned, (SELECT max(v.id) FROM movement v WHERE v.run_id = r.id) AS last, m.id, m.item_id, m.kind, m.serial_no, m.lot_no,
			EXISTS (SELECT 1 FROM run_closing c WHERE c.run_id = r.id AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = c.event_id)) AS closed
		FROM (SELECT r.id FROM unnest(${codes}::text[]) w(code) JOIN run r ON r.code = w.code
			UNION SELECT r.id FROM unnest(${known}::bigint[]) w(unit) JOIN run r ON r.unit_mark = w.unit) f
		JOIN run r ON r.id = f.id LEFT JOIN mark m ON m.id = r.unit_mark`;
	const runOfUnit = new Map<string, string>();
	for (const { run, code, planned, last, closed, ...unit } of rows) {
		if (unit.id) runOfUnit.set(unit.id, code);
		if (codes.includes(code))
			runs.set(code, { id: run, code, planned, last, closed, closes: false, unit: unit.id ? unit : null });
	}
	const faults: Fault[] = [];
	for (const given of event.runs ?? []) {
		const at = `run ${given.code}`;
		const unit = given.unit ? marks.find({ item: items.get(given.unit.item)!, serial: given.unit.serial }) : null;
		const there = runs.get(given.code);
		const own = unit ? runOfUnit.get(unit.id) : undefined;
		if (there?.id) {
			if (unit && there.unit?.id !== unit.id) faults.push(faultFrom(say.otherRun, { run: given.code }, at));
			there.closes = !!given.closed && !there.closed;
		} else if (there) faults.push(faultFrom(say.runTwice, { run: given.code }, at));
		else if (own)
			faults.push(faultFrom(say.unitTwice, { run: given.code, unit: `Serial ${unit!.serial_no}`, other: own }, at));
		else
			runs.set(given.code, {
				id: null,
				code: given.code,
				unit,
				last: null,
				closed: false,
				closes: !!given.closed,
				planned: given.planned ?? null
			});
	}
	for (const code of codes) if (!runs.has(code)) faults.push(faultFrom(say.noSuchRun, { run: code }, `run ${code}`));
	if (faults.length) throw new Problem(faults);
	return runs;
}

/** The movements of an event with everything they name found. @throws Problem for an id that is no lot or serial of its item */
export function resolveLines(event: ParsedEvent, names: Known, marks: Marks, runs: ReadonlyMap<string, Run>): Line[] {
	const faults: Fault[] = [];
	const lines = (event.movements ?? []).flatMap((given: ParsedMovement, index): Line[] => {
		const item = names.items.get(given.item)!;
		const mark = marks.find({ ...given, item });
		if (!mark || mark.item_id !== item.id) {
			faults.push(faultFrom(say.noSuchMark, { item: item.code }, `movements[${index}]`));
			return [];
		}
		return [
			{
				index,
				given,
				item,
				from: names.places.get(given.from)!,
				to: names.places.get(given.to)!,
				mark,
				lot: mark.kind === 'serial' ? marks.parentOf(mark) : null,
				run: given.run ? runs.get(given.run)! : null
			}
		];
	});
	if (faults.length) throw new Problem(faults);
	return lines;
}
