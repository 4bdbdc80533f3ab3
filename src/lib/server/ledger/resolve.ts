import type { Tx } from '../database/connect.ts';
import { Problem, type Fault } from '../../core/problem/problem.ts';
import type { AskedFact, Fact, Facts } from '../../core/facts/fact.ts';
import { listFacts } from '../setup/facts.ts';
import type { ParsedEvent, ParsedMovement } from './input.ts';

export interface Item {
	id: string;
	code: string;
	name: string;
	unit: string;
	decimals: number;
	tracking: string;
	rules: Record<string, { lot: string; serial: string; expiry: string }> | null;
	/** facts asked at each step, by their codes */
	asks: Record<string, Record<string, AskedFact['how']>> | null;
}
export interface Place {
	id: string;
	code: string;
	virtual: boolean;
	site: string | null;
}
export interface Mark {
	id: string;
	item_id: string;
	kind: 'lot' | 'serial' | 'unmarked';
	lot_no: string | null;
	serial_no: string | null;
	parent_id: string | null;
	supplier_lot: string | null;
	supplier_serial: string | null;
	facts: Facts;
	made_on: string | null;
	expires_on: string | null;
	status: string;
	/** made by this event */
	fresh?: boolean;
}
export interface Run {
	id: string | null;
	code: string;
	unit: Mark | null;
	planned: string | null;
	closed: boolean;
	closes: boolean;
}
/** A movement with everything it names found. */
export interface Line {
	index: number;
	given: ParsedMovement;
	item: Item;
	from: Place;
	to: Place;
	mark: Mark;
	run: Run | null;
}
export interface Create {
	places?: boolean;
	partners?: boolean;
}

/** Finds every item, place, partner and run that an event names, a set at a time. @throws Problem naming each one unknown */
export async function resolveNames(tx: Tx, event: ParsedEvent, create: Create) {
	const faults: Fault[] = [];
	const movements = event.movements ?? [];
	const itemCodes = new Set([...movements.map((m) => m.item), ...(event.runs ?? []).flatMap((r) => r.unit?.item ?? [])]); // prettier-ignore
	const items = new Map<string, Item>();
	for (const i of await tx<Item[]>`
		SELECT i.id, i.code, i.name, i.unit, i.decimals, i.tracking,
			(SELECT json_object_agg(r.step, json_build_object('lot', r.lot, 'serial', r.serial, 'expiry', r.expiry)) FROM item_rule r WHERE r.item_id = i.id) AS rules,
			(SELECT json_object_agg(s.step, s.facts) FROM (SELECT f.step, json_object_agg(c.code, f.how) AS facts
				FROM item_fact f JOIN fact c ON c.id = f.fact_id WHERE f.item_id = i.id GROUP BY f.step) s) AS asks
		FROM item i WHERE i.code = ANY(${[...itemCodes]})`)
		items.set(i.code, i);

	const factCodes = new Set([...movements.flatMap((m) => Object.keys(m.facts ?? {})), ...[...items.values()].flatMap((i) => Object.values(i.asks ?? {}).flatMap((a) => Object.keys(a)))]); // prettier-ignore
	const facts = new Map<string, Fact>();
	if (factCodes.size) for (const f of await listFacts(tx, [...factCodes])) facts.set(f.code, f);

	const placeCodes = [...new Set(movements.flatMap((m) => [m.from, m.to]))];
	if (create.places) await createPlaces(tx, placeCodes);
	const places = new Map<string, Place>();
	for (const p of await tx<Place[]>`
		SELECT p.id, p.code, p.virtual, coalesce(s.code, p.code) AS site FROM place p LEFT JOIN place s ON s.id = p.site_id
		WHERE p.code = ANY(${placeCodes})`)
		places.set(p.code, p);

	let partner: { id: string; name: string } | null = null;
	if (event.partner) {
		if (create.partners)
			await tx`INSERT INTO partner (code, name, kind) VALUES (${event.partner}, ${event.partner},
				${event.kind === 'receipt' || event.kind === 'supplier return' ? 'supplier' : 'customer'}) ON CONFLICT DO NOTHING`;
		[partner = null] = await tx<{ id: string; name: string }[]>`SELECT id, name FROM partner WHERE code = ${event.partner}`; // prettier-ignore
		if (!partner)
			faults.push({ message: `There is no partner ${event.partner}. Add it in Setup, or correct the code.`, at: 'partner' }); // prettier-ignore
	}
	movements.forEach((m, i) => {
		const at = `movements[${i}]`;
		if (!items.has(m.item))
			faults.push({
				message: `There is no item ${m.item}. Add it in Setup, or correct the code.`,
				at
			});
		for (const code of Object.keys(m.facts ?? {}))
			if (!facts.has(code))
				faults.push({ message: `There is no fact ${code}. Define it in Setup, or correct the code.`, at });
		for (const code of [m.from, m.to])
			if (!places.has(code))
				faults.push({
					message: `There is no place ${code}. Add it in Setup, or correct the code.`,
					at
				});
	});
	if (faults.length) throw new Problem(faults.slice(0, 200));
	return { items, places, partner, facts };
}

async function createPlaces(tx: Tx, codes: string[]) {
	const real = codes.filter((c) => /^[A-Za-z0-9._-]{1,20}(\/[A-Za-z0-9._-]{1,20})?$/.test(c));
	const sites = [...new Set(real.map((c) => c.split('/')[0]))];
	await tx`INSERT INTO place (code, name) SELECT c, c FROM unnest(${sites}::text[]) c ON CONFLICT DO NOTHING`;
	await tx`INSERT INTO place (code, name, site_id) SELECT c, split_part(c, '/', 2), s.id
		FROM unnest(${real.filter((c) => c.includes('/'))}::text[]) c JOIN place s ON s.code = split_part(c, '/', 1) ON CONFLICT DO NOTHING`;
}

/** The facts of a mark that has none: one for all of them, never changed. */
const NONE: Facts = Object.freeze({});
const slot = (kind: string, item: string, number = '') => `${kind} ${item} ${number}`;

/**
 * Finds the marks that movements name; those not known yet are prepared, unsaved, with an id reserved. Two statements
 * for lots, two for serials, whatever the count.
 */
export class Marks {
	private known = new Map<string, Mark>();
	readonly fresh: Mark[] = [];

	static async load(tx: Tx, wanted: { item: Item; lot?: string | null; serial?: string | null }[]) {
		const marks = new Marks();
		const serials = wanted.filter((w) => w.serial);
		const lots = wanted.filter((w) => w.lot);
		const bare = wanted.filter((w) => !w.lot && !w.serial);
		const fields = tx`m.id, m.item_id, m.kind, m.lot_no, m.serial_no, m.parent_id, m.supplier_lot, m.supplier_serial, m.facts, m.made_on, m.expires_on, m.status`;
		const found = await tx<Mark[]>`
			SELECT ${fields} FROM unnest(${serials.map((w) => w.item.id)}::bigint[], ${serials.map((w) => w.serial!)}::text[]) w(item, number)
				JOIN mark m ON m.item_id = w.item AND m.serial_no = w.number AND m.kind = 'serial'
			UNION ALL
			SELECT ${fields} FROM (SELECT DISTINCT * FROM unnest(${lots.map((w) => w.item.id)}::bigint[], ${lots.map((w) => w.lot!)}::text[]) w(item, number)) w
				JOIN mark m ON m.item_id = w.item AND m.lot_no = w.number AND m.kind = 'lot'
			UNION ALL
			SELECT ${fields} FROM mark m WHERE m.kind = 'unmarked' AND m.item_id = ANY(${bare.map((w) => w.item.id)}::bigint[])`;
		const named = new Set(found.map((m) => m.id));
		const parents = [...new Set(found.flatMap((m) => (m.parent_id && !named.has(m.parent_id) ? [m.parent_id] : [])))];
		if (parents.length)
			for (const m of await tx<Mark[]>`SELECT ${fields} FROM mark m WHERE m.id = ANY(${parents}::bigint[])`) marks.byId.set(m.id, m); // prettier-ignore
		for (const m of found) marks.byId.set(m.id, m);
		for (const m of found) marks.known.set(slot(m.kind, m.item_id, m.serial_no ?? m.lot_no ?? ''), m);
		for (const w of wanted) {
			const lot = w.lot ? marks.prepare('lot', w.item, w.lot) : null;
			if (w.serial) marks.prepare('serial', w.item, w.serial, lot);
			else if (!lot) marks.prepare('unmarked', w.item, '');
		}
		await marks.reserve(tx);
		return marks;
	}

	get(item: Item, lot?: string | null, serial?: string | null): Mark {
		const key = serial ? slot('serial', item.id, serial) : lot ? slot('lot', item.id, lot) : slot('unmarked', item.id);
		return this.known.get(key)!;
	}

	private byId = new Map<string, Mark>();
	/** The lot that a serial belongs to, where this event knows it. */
	parentOf = (mark: Mark): Mark | undefined => this.parents.get(mark) ?? (mark.parent_id ? this.byId.get(mark.parent_id) : undefined); // prettier-ignore

	private parents = new Map<Mark, Mark>();
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

	private async reserve(tx: Tx) {
		if (!this.fresh.length) return;
		const ids = await tx<{ id: string }[]>`
			WITH s AS MATERIALIZED (SELECT pg_get_serial_sequence('mark', 'id')::regclass AS seq)
			SELECT nextval(s.seq) AS id FROM s, generate_series(1, ${this.fresh.length}::int)`;
		this.fresh.forEach((m, i) => (m.id = ids[i].id));
		for (const [mark, parent] of this.parents) mark.parent_id = parent.id;
	}

	/** Writes the new marks: one statement. */
	async save(tx: Tx, event: string) {
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

/** Finds or prepares the runs that an event declares or names. */
export async function resolveRuns(
	tx: Tx,
	event: ParsedEvent,
	items: Map<string, Item>,
	marks: Marks
): Promise<Map<string, Run>> {
	const movements = event.movements ?? [];
	const codes = [...new Set([...(event.runs ?? []).map((r) => r.code), ...movements.flatMap((m) => m.run ?? [])])]; // prettier-ignore
	const runs = new Map<string, Run>();
	if (!codes.length) return runs;
	const rows = await tx<(Mark & { run: string; code: string; planned: string | null; closed: boolean })[]>`
		SELECT r.id AS run, r.code, r.planned, m.id, m.item_id, m.kind, m.serial_no, m.lot_no,
			EXISTS (SELECT 1 FROM run_closing c WHERE c.run_id = r.id AND NOT EXISTS (SELECT 1 FROM event u WHERE u.undoes = c.event_id)) AS closed
		FROM run r LEFT JOIN mark m ON m.id = r.unit_mark WHERE r.code = ANY(${codes})`;
	for (const { run, code, planned, closed, ...unit } of rows)
		runs.set(code, { id: run, code, planned, closed, closes: false, unit: unit.id ? unit : null });
	const faults: Fault[] = [];
	for (const given of event.runs ?? []) {
		const unit = given.unit ? marks.get(items.get(given.unit.item)!, null, given.unit.serial) : null;
		const there = runs.get(given.code);
		if (there) {
			if (unit && there.unit?.id !== unit.id)
				faults.push({ message: `Run ${given.code} is already another run. Give this one a code of its own.`, at: `run ${given.code}` }); // prettier-ignore
			there.closes = !!given.closed && !there.closed;
		} else
			runs.set(given.code, {
				...{ id: null, code: given.code, unit, closed: false, closes: !!given.closed },
				planned: given.planned == null ? null : String(given.planned)
			});
	}
	for (const code of codes)
		if (!runs.has(code))
			faults.push({ message: `There is no run ${code}. Declare it in runs, or correct the code.`, at: `run ${code}` }); // prettier-ignore
	if (faults.length) throw new Problem(faults);
	return runs;
}
