import { poolOf, type Db } from '../database/connect.ts';
import { asDelivered, type Policy } from '../../core/checks/catalogue.ts';
import type { Fact } from '../../core/facts/fact.ts';
import type { Item, Place } from '../../core/ledger/line.ts';
import { stronger, type How } from '../../core/marking/rule.ts';
import { factsByCode } from '../marks/facts.ts';

/** What an event names of what is set up, by codes. */
export interface Named {
	items: readonly string[];
	places: readonly string[];
	/** facts that its movements give; those that rules ask are found by themselves */
	facts: readonly string[];
	partners: readonly string[];
	job: string | null;
}

/** How many items, places and partners are kept at most; a firm that names more in one while reads them again. */
const MOST = 20_000;

/** What was read of what is set up, by one version of it. */
export class Known {
	readonly items = new Map<string, Item>();
	readonly places = new Map<string, Place>();
	readonly facts = new Map<string, Fact>();
	/** codes that are known */
	readonly partners = new Set<string>();
	/** whether each is closed */
	readonly jobs = new Map<string, boolean>();
	policy: Policy = asDelivered();
	constructor(readonly version: string) {}

	/** What of it is named and was not read yet. */
	lacks(named: Named) {
		const missing = (codes: readonly string[], kept: { has(code: string): boolean }) => [
			...new Set(codes.filter((c) => !kept.has(c)))
		];
		return {
			items: missing(named.items, this.items),
			places: missing(named.places, this.places),
			partners: missing(named.partners, this.partners),
			jobs: missing(named.job ? [named.job] : [], this.jobs),
			facts: missing([...named.facts, ...named.items.flatMap((i) => asked(this.items.get(i)))], this.facts)
		};
	}
}

/**
 * What is set up, as far as bookings have asked for it: kept in the process from one booking to the next, with the version
 * that it was read by. A booking is held to that version when it is written, so what is kept may be old, and never wrong.
 */
export class Catalogue {
	private known: Known | null = null;

	/** Forgets all of it: something changed since. */
	forget(): void {
		this.known = null;
	}

	/** Is what is known still so? What is refused because of it has to be. */
	async holds(db: Db): Promise<boolean> {
		const version = await versionOf(db);
		return !this.known || version === this.known.version;
	}

	/**
	 * What is known, after a look whether it is still so: what somebody is shown may not be old.
	 * @param version of what is set up, where it was just read
	 * @returns it with the firm's policy, and of items, places and partners what was named before
	 */
	async current(db: Db, version?: string): Promise<Known> {
		version ??= await versionOf(db);
		if (this.known?.version !== version) {
			const known = new Known(version);
			known.policy = await readPolicy(db);
			this.known = known;
		}
		return this.known;
	}

	/** What is named, as it is now. */
	async readNow(db: Db, named: Named): Promise<Known> {
		await this.current(db);
		return this.read(db, named);
	}

	/**
	 * What is named, read a set at a time where it is not known yet. What is not there at all stays unknown.
	 * @returns what is known by one version, the named among it
	 */
	async read(db: Db, named: Named): Promise<Known> {
		if (this.known && Object.values(this.known.lacks(named)).every((list) => !list.length)) return this.known;
		// The version first: what is read after it is at least as new, and is held to it.
		const version = await versionOf(db);
		const there = this.known;
		const full = there && there.items.size + there.places.size + there.partners.size > MOST;
		const known = there?.version === version && !full ? there : new Known(version);
		const wanted = known.lacks(named);
		const [items, places, partners, jobs, policy] = await Promise.all([
			wanted.items.length ? itemsByCode(db, wanted.items) : [],
			wanted.places.length ? placesByCode(db, wanted.places) : [],
			wanted.partners.length
				? db<{ code: string }[]>`SELECT code FROM partner WHERE code = ANY(${wanted.partners})`
				: [],
			wanted.jobs.length
				? db<
						{ code: string; closed: boolean }[]
					>`SELECT code, closed_on IS NOT NULL AS closed FROM job WHERE code = ANY(${wanted.jobs})`
				: [],
			known === there ? known.policy : readPolicy(db)
		]);
		for (const i of items) known.items.set(i.code, i);
		for (const p of places) known.places.set(p.code, p);
		for (const p of partners) known.partners.add(p.code);
		for (const j of jobs) known.jobs.set(j.code, j.closed);
		known.policy = policy;
		const { facts } = known.lacks(named);
		if (facts.length) for (const f of await factsByCode(db, facts)) known.facts.set(f.code, f);
		this.known = known;
		return known;
	}
}
const asked = (item: Item | undefined): string[] =>
	Object.values(item?.asks ?? {}).flatMap((facts) => Object.keys(facts));

const versionOf = async (db: Db): Promise<string> =>
	(await db<{ version: string }[]>`SELECT version FROM catalogue`)[0].version;

const kept = new WeakMap<Db, Catalogue>();
/**
 * The catalogue that all share who work through a pool, in a transaction or not. A transaction that changes what is set up
 * reads by one of its own: nobody else knows of its changes yet.
 */
export function catalogueOf(db: Db): Catalogue {
	const pool = poolOf(db);
	const there = kept.get(pool) ?? new Catalogue();
	kept.set(pool, there);
	return there;
}

/** Items by their codes, with what their rules ask and the patterns of their numbers. */
const itemsByCode = async (sql: Db, codes: readonly string[]): Promise<Item[]> => {
	const items = await sql<Item[]>`
	SELECT i.id, i.code, i.name, i.unit, i.decimals, i.tracking, i.shelf_life AS "shelfLife", i.end_of_month AS "endOfMonth", i.expiry_from AS "expiryFrom", i.least_left AS "leastLeft",
		CASE WHEN i.content_qty IS NOT NULL THEN json_build_object('qty', trim_scale(i.content_qty)::text, 'unit', i.content_unit) END AS content, trim_scale(i.loss_tolerance)::text AS "lossTolerance",
		i.misfit, i.serials_unique_everywhere AS everywhere,
		(SELECT p.blocks FROM number_pattern p WHERE p.id = i.lot_pattern_id) AS "lotPattern",
		(SELECT p.blocks FROM number_pattern p WHERE p.id = i.serial_pattern_id) AS "serialPattern",
		(SELECT json_object_agg(r.step, json_build_object('lot', r.lot, 'serial', r.serial, 'expiry', r.expiry, 'evidence', r.evidence)) FROM item_rule r WHERE r.item_id = i.id) AS rules,
		(SELECT json_object_agg(s.step, s.facts) FROM (SELECT f.step, json_object_agg(c.code, f.how) AS facts
			FROM item_fact f JOIN fact c ON c.id = f.fact_id WHERE f.item_id = i.id GROUP BY f.step) s) AS asks
	FROM item i WHERE i.code = ANY(${codes})`;
	for (const { rules, asks } of items) {
		// What is found arrives too: a date and the facts that a delivery needs, it needs as well.
		const [found, receipt] = [rules?.['adjustment in'], rules?.receipt];
		if (found && receipt) found.expiry = stronger(found.expiry as How, receipt.expiry as How);
		if (asks?.receipt) asks['adjustment in'] = { ...asks.receipt, ...asks['adjustment in'] };
	}
	return items;
};

/** Places by their codes, with the time zone of each. */
const placesByCode = (sql: Db, codes: readonly string[]) => sql<Place[]>`
	SELECT p.id, p.code, p.virtual, p.transit, p.staging, coalesce(s.code, p.code) AS site, coalesce(p.zone, s.zone, f.zone) AS zone
	FROM firm f CROSS JOIN place p LEFT JOIN place s ON s.id = p.site_id WHERE p.code = ANY(${codes})`;

/** How strongly the firm takes what each check finds. */
export async function readPolicy(sql: Db): Promise<Policy> {
	const policy = asDelivered();
	for (const r of await sql<{ code: string; strength: Policy[string] }[]>`SELECT code, strength FROM check_policy`)
		if (Object.hasOwn(policy, r.code)) policy[r.code] = r.strength;
	return policy;
}
