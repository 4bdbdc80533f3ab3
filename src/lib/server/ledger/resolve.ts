import type { Db } from '../database/connect.ts';
import * as say from '../../core/checks/catalogue.ts';
import { faultFrom } from '../../core/checks/check.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import type { Fact, Facts } from '../../core/facts/fact.ts';
import type { ParsedEvent, ParsedMovement } from '../../core/ledger/input.ts';
import type { Item, Line, Mark, Place, Run } from '../../core/ledger/line.ts';
import { factsByCode } from '../marks/facts.ts';

/** What an event may bring into being besides numbers and runs. */
export interface Create {
	places?: boolean;
	partners?: boolean;
}
/** Everything that an event names, found. */
export interface Names {
	items: Map<string, Item>;
	places: Map<string, Place>;
	facts: Map<string, Fact>;
	/** the firm's time zone: that of every place that is no shelf */
	zone: string;
}

/** Items by their codes, with what their rules ask and the patterns of their numbers. */
export const itemsByCode = (sql: Db, codes: readonly string[]) => sql<Item[]>`
	SELECT i.id, i.code, i.name, i.unit, i.decimals, i.tracking, i.shelf_life AS "shelfLife", i.end_of_month AS "endOfMonth", i.least_left AS "leastLeft",
		i.misfit, i.serials_unique_everywhere AS everywhere,
		(SELECT p.blocks FROM number_pattern p WHERE p.id = i.lot_pattern_id) AS "lotPattern",
		(SELECT p.blocks FROM number_pattern p WHERE p.id = i.serial_pattern_id) AS "serialPattern",
		(SELECT json_object_agg(r.step, json_build_object('lot', r.lot, 'serial', r.serial, 'expiry', r.expiry)) FROM item_rule r WHERE r.item_id = i.id) AS rules,
		(SELECT json_object_agg(s.step, s.facts) FROM (SELECT f.step, json_object_agg(c.code, f.how) AS facts
			FROM item_fact f JOIN fact c ON c.id = f.fact_id WHERE f.item_id = i.id GROUP BY f.step) s) AS asks
	FROM item i WHERE i.code = ANY(${codes})`;

/** Places by their codes, with the time zone of each. */
export const placesByCode = (sql: Db, codes: readonly string[]) => sql<Place[]>`
	SELECT p.id, p.code, p.virtual, coalesce(s.code, p.code) AS site, coalesce(p.zone, s.zone, f.zone) AS zone
	FROM firm f CROSS JOIN place p LEFT JOIN place s ON s.id = p.site_id WHERE p.code = ANY(${codes})`;

/**
 * Finds every item, place, partner, job and fact that an event names, a set at a time.
 * @throws Problem naming each one unknown
 */
export async function resolveNames(tx: Db, event: ParsedEvent, create: Create): Promise<Names> {
	const movements = event.movements ?? [];
	const itemCodes = [
		...new Set([...movements.map((m) => m.item), ...(event.runs ?? []).flatMap((r) => r.unit?.item ?? [])])
	];
	const placeCodes = [...new Set(movements.flatMap((m) => [m.from, m.to]))];
	if (create.places) await createPlaces(tx, placeCodes);
	if (create.partners && event.partner) await createPartner(tx, event.partner, event.kind);
	const [items, places, partners, jobs] = await Promise.all([
		itemsByCode(tx, itemCodes),
		placesByCode(tx, placeCodes),
		event.partner ? tx`SELECT 1 FROM partner WHERE code = ${event.partner}` : [1],
		event.job
			? tx<{ closed: boolean }[]>`SELECT closed_on IS NOT NULL AS closed FROM job WHERE code = ${event.job}`
			: [{ closed: false }]
	]);
	const found: Names = {
		items: new Map(items.map((i) => [i.code, i])),
		places: new Map(places.map((p) => [p.code, p])),
		facts: new Map(),
		zone: places.find((p) => p.virtual)?.zone ?? 'UTC'
	};
	const asked = [...found.items.values()].flatMap((i) => Object.values(i.asks ?? {}).flatMap((a) => Object.keys(a)));
	const codes = new Set([...movements.flatMap((m) => Object.keys(m.facts ?? {})), ...asked]);
	if (codes.size) for (const f of await factsByCode(tx, [...codes])) found.facts.set(f.code, f);

	const faults: Fault[] = [];
	if (!partners.length) faults.push(faultFrom(say.noSuch, { what: 'partner', code: event.partner! }, 'partner'));
	if (!jobs.length) faults.push(faultFrom(say.noSuch, { what: 'job', code: event.job! }, 'job'));
	else if (jobs[0].closed) faults.push(faultFrom(say.closedJob, { job: event.job! }, 'job'));
	faults.push(...unknownNames(event, found));
	if (faults.length) throw new Problem(faults.slice(0, 200));
	return found;
}

function unknownNames(event: ParsedEvent, found: Names): Fault[] {
	const faults: Fault[] = [];
	const item = (code: string, at: string) => {
		if (!found.items.has(code)) faults.push(faultFrom(say.noSuch, { what: 'item', code }, at));
	};
	(event.movements ?? []).forEach((m, i) => {
		const at = `movements[${i}]`;
		item(m.item, at);
		for (const code of Object.keys(m.facts ?? {}))
			if (!found.facts.has(code)) faults.push(faultFrom(say.noSuch, { what: 'fact', code }, at));
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
/** What a movement or a run names: an item's lot, serial or both, or a mark by its id. */
export interface Wanted {
	item: Item;
	lot?: string | null;
	serial?: string | null;
	mark?: string | null;
}

/**
 * Finds the marks that movements name; those not known yet are prepared, unsaved, with an id reserved. Two statements
 * for lots, two for serials, whatever the count.
 */
export class Marks {
	private known = new Map<string, Mark>();
	private byId = new Map<string, Mark>();
	private parents = new Map<Mark, Mark>();
	readonly fresh: Mark[] = [];

	/** @param reserve false only looks: nothing is written, and new marks get ids that mean nothing */
	static async load(tx: Db, wanted: readonly Wanted[], reserve = true): Promise<Marks> {
		const marks = new Marks();
		const serials = wanted.filter((w) => w.serial && !w.mark);
		const lots = wanted.filter((w) => w.lot && !w.mark);
		const without = wanted.filter((w) => !w.lot && !w.serial && !w.mark);
		const ids = wanted.flatMap((w) => w.mark ?? []);
		const fields = tx`m.id, m.item_id, m.kind, m.lot_no, m.serial_no, m.parent_id, m.supplier_lot, m.supplier_serial, m.facts, m.made_on, m.expires_on, m.status`;
		const found = await tx<Mark[]>`
			SELECT ${fields} FROM unnest(${serials.map((w) => w.item.id)}::bigint[], ${serials.map((w) => w.serial!)}::text[]) w(item, number)
				JOIN mark m ON m.item_id = w.item AND m.serial_no = w.number AND m.kind = 'serial'
			UNION ALL
			SELECT ${fields} FROM (SELECT DISTINCT * FROM unnest(${lots.map((w) => w.item.id)}::bigint[], ${lots.map((w) => w.lot!)}::text[]) w(item, number)) w
				JOIN mark m ON m.item_id = w.item AND m.lot_no = w.number AND m.kind = 'lot'
			UNION ALL
			SELECT ${fields} FROM mark m WHERE m.kind = 'unmarked' AND m.item_id = ANY(${without.map((w) => w.item.id)}::bigint[])
			UNION ALL
			SELECT ${fields} FROM mark m WHERE m.id = ANY(${ids}::bigint[])`;
		const there = new Set(found.map((m) => m.id));
		const parents = [...new Set(found.flatMap((m) => (m.parent_id && !there.has(m.parent_id) ? [m.parent_id] : [])))];
		if (parents.length)
			for (const m of await tx<Mark[]>`SELECT ${fields} FROM mark m WHERE m.id = ANY(${parents}::bigint[])`)
				marks.byId.set(m.id, m);
		for (const m of found) {
			if (marks.byId.has(m.id)) continue;
			marks.byId.set(m.id, m);
			marks.known.set(slot(m.kind, m.item_id, m.serial_no ?? m.lot_no ?? ''), m);
		}
		for (const w of wanted) {
			if (w.mark) continue;
			const lot = w.lot ? marks.prepare('lot', w.item, w.lot) : null;
			if (w.serial) marks.prepare('serial', w.item, w.serial, lot);
			else if (!lot) marks.prepare('unmarked', w.item, '');
		}
		await marks.number(tx, reserve);
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
			id: '',
			item_id: item.id,
			kind,
			lot_no: kind === 'lot' ? number : null,
			serial_no: kind === 'serial' ? number : null,
			parent_id: null,
			supplier_lot: null,
			supplier_serial: null,
			facts: NONE,
			made_on: null,
			expires_on: null,
			status: 'released',
			fresh: true
		};
		if (parent) this.parents.set(mark, parent);
		this.known.set(key, mark);
		this.fresh.push(mark);
		return mark;
	}

	private async number(tx: Db, reserve: boolean) {
		if (!this.fresh.length) return;
		if (reserve) {
			const ids = await tx<{ id: string }[]>`
				WITH s AS MATERIALIZED (SELECT pg_get_serial_sequence('mark', 'id')::regclass AS seq)
				SELECT nextval(s.seq) AS id FROM s, generate_series(1, ${this.fresh.length}::int)`;
			this.fresh.forEach((m, i) => (m.id = ids[i].id));
		} else this.fresh.forEach((m, i) => (m.id = `new ${i}`));
		for (const [mark, parent] of this.parents) mark.parent_id = parent.id;
	}

	/** Writes the new marks: one statement. */
	async save(tx: Db, event: string) {
		const f = this.fresh;
		if (!f.length) return;
		await tx`INSERT INTO mark (id, item_id, kind, lot_no, serial_no, parent_id, supplier_lot, supplier_serial, facts, made_on, expires_on, event_id)
			OVERRIDING SYSTEM VALUE
			SELECT id, item, kind, lot, serial, parent, supplier_lot, supplier_serial, coalesce(facts::jsonb, '{}'), made, expires, ${event}::bigint FROM unnest(
				${f.map((m) => m.id)}::bigint[], ${f.map((m) => m.item_id)}::bigint[], ${f.map((m) => m.kind)}::text[],
				${f.map((m) => m.lot_no)}::text[], ${f.map((m) => m.serial_no)}::text[], ${f.map((m) => m.parent_id)}::bigint[],
				${f.map((m) => m.supplier_lot)}::text[], ${f.map((m) => m.supplier_serial)}::text[], ${f.map((m) => (m.facts === NONE ? null : JSON.stringify(m.facts)))}::text[],
				${f.map((m) => m.made_on)}::date[], ${f.map((m) => m.expires_on)}::date[])
				n(id, item, kind, lot, serial, parent, supplier_lot, supplier_serial, facts, made, expires)`;
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
	const rows = await tx<(Mark & { run: string; code: string; planned: string | null; closed: boolean })[]>`
		SELECT r.id AS run, r.code, r.planned, m.id, m.item_id, m.kind, m.serial_no, m.lot_no,
			EXISTS (SELECT 1 FROM run_closing c WHERE c.run_id = r.id AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = c.event_id)) AS closed
		FROM run r LEFT JOIN mark m ON m.id = r.unit_mark WHERE r.code = ANY(${codes}) OR r.unit_mark = ANY(${known}::bigint[])`;
	const runOfUnit = new Map<string, string>();
	for (const { run, code, planned, closed, ...unit } of rows) {
		if (unit.id) runOfUnit.set(unit.id, code);
		if (codes.includes(code))
			runs.set(code, { id: run, code, planned, closed, closes: false, unit: unit.id ? unit : null });
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
export function resolveLines(event: ParsedEvent, names: Names, marks: Marks, runs: ReadonlyMap<string, Run>): Line[] {
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
