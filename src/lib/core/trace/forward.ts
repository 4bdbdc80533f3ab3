import Fraction from 'fraction.js';
import { countKnown, type Evidence, type Known } from '../ledger/evidence.ts';
import { virtualPlace, type VirtualPlace } from '../ledger/places.ts';
import { above, isNone, minus, part, plus, quantityReader, ZERO } from '../quantity/fractions.ts';
import { flowOf, gapOf } from './flow.ts';
import type { Forward, Gap, LedgerSlice, MarkInfo, Moved, PlaceInfo, RunInfo, State, Where } from './types.ts';

const ONE = new Fraction(1);
/** As decimal text; whole numbers, the most there are, without the search for a period. */
const decimal = (f: Fraction) => (f.d === 1n ? String(f.s * f.n) : f.toString(12));

/** A place, and what it means where it is no shelf. */
interface Spot extends PlaceInfo {
	away: VirtualPlace | null;
}
/** What stands of a mark at one place (or with one customer). */
interface Slot {
	place: Spot;
	/** who has it, at places that hold apart: a partner or a job */
	holder: string | null;
	qty: Fraction;
	content: Fraction;
	/** at virtual places: how much came while the mark was reached, and how it is known that the last of it did */
	reached: Fraction;
	evidence: Evidence | null;
}
const NOWHERE: Slot[] = [];
/** The most places that are looked through one by one. */
const FEW = 8;
const slotKey = (place: Spot, holder: string | null) => `${place.id}|${holder ?? ''}`;

/** What is known of a mark. There are very many: what is as it was at first costs nothing. */
class MarkState {
	readonly info: MarkInfo;
	readonly root: boolean;
	/** reached for good: a root, a lot, a serial out of a pooled run */
	permanent = false;
	reached = false;
	made = false;
	/** when it was first reached */
	since: string | null = null;
	/** content of a serial while it is built into a unit */
	own = ZERO;
	inside: RunState | null = null;
	unitRun: RunState | null = null;
	// Most stand at one place at a time: what finds one of many is made only where there are many.
	private few: Slot[] = NOWHERE;
	private many: Map<string, Slot> | null = null;

	constructor(info: MarkInfo, root: boolean) {
		this.info = info;
		this.root = root;
	}
	/** What stands of it somewhere; made where nothing did yet. */
	slot(place: Spot, holder: string | null): Slot {
		// Asked twice a movement: a loop by hand is quicker than a function for each.
		for (const there of this.few) if (there.place === place && there.holder === holder) return there;
		const there = this.many?.get(slotKey(place, holder));
		if (there) return there;
		const slot: Slot = { place, holder, qty: ZERO, content: ZERO, reached: ZERO, evidence: null };
		if (!this.many && this.few.length === FEW) {
			this.many = new Map(this.few.map((s) => [slotKey(s.place, s.holder), s]));
			this.few = NOWHERE;
		}
		if (this.many) this.many.set(slotKey(place, holder), slot);
		else this.few = this.few === NOWHERE ? [slot] : this.few.concat(slot);
		return slot;
	}
	/** It left a place altogether. */
	leave(slot: Slot): void {
		if (this.many) this.many.delete(slotKey(slot.place, slot.holder));
		else this.few = this.few.length === 1 ? NOWHERE : this.few.filter((s) => s !== slot);
	}
	slots(): Iterable<Slot> {
		return this.many?.values() ?? this.few;
	}
}
interface RunState {
	info: RunInfo;
	// pooled
	reached: boolean;
	pool: Fraction;
	made: Fraction;
	total: Fraction;
	waiting: boolean;
	measured: boolean;
	// of one unit
	shares: { mark: string; qty: Fraction; content: Fraction; reached: boolean }[];
	parts: Set<MarkState>;
}

/**
 * Traces forward: replays the movements in time order, with what is reached and how much of the root is where.
 *
 * Reachability in time order follows the definition of time-respecting paths (Wu et al., Path Problems in Temporal
 * Graphs, VLDB 2014), and a serialised unit is reached only while something in it is. Content is well mixed at each place and
 * spread over a pooled run's later outputs by quantity; all arithmetic is exact, so the contents add up to rootQty.
 *
 * @param roots the mark, or a lot and the serials that belong to it
 * @param since reached from this time on (ISO, the slice's width); default: from the first movement
 * @param slice all movements of every mark that could be reached, up to the time asked for
 */
export function traceForward(slice: LedgerSlice, roots: string[], since?: string): Forward {
	const replay = new Replay(slice, roots);
	replay.run(since);
	return replay;
}

/** What is asked of it afterwards is read out of it: what stands here is large enough. */
class Replay implements Forward {
	private states = new Map<string, MarkState>();
	private runs = new Map<string, RunState>();
	private places = new Map<string, Spot>();
	rootQty = ZERO;
	private active = false;
	gaps: Gap[] = [];
	/** the content that went by each movement which is on the way, by its place in the slice */
	private carried: (Fraction | undefined)[];
	/** how the movements on the way are known, counted as they go by */
	private knownWay = countKnown([]);
	/** the place of the movement that is looked at */
	private nth = 0;
	private unmarked = new Map<string, Where>();
	/** how much of a use of a pooled run is given back by it later, by the use's id */
	private back = new Map<string, Fraction>();
	/** what was put into pooled runs and is given back later: it never mixed with the rest; by "run mark" */
	private aside = new Map<string, { qty: Fraction; content: Fraction }>();
	private read = quantityReader();
	private slice: LedgerSlice;
	private roots: string[];

	constructor(slice: LedgerSlice, roots: string[]) {
		this.slice = slice;
		this.roots = roots;
		this.carried = new Array<undefined>(slice.movements.length);
		for (const place of slice.places.values()) this.places.set(place.id, { ...place, away: virtualPlace(place.code) });
		const isRoot = new Set(roots);
		for (const info of slice.marks.values()) this.states.set(info.id, new MarkState(info, isRoot.has(info.id)));
		for (const info of slice.runs.values()) {
			const run: RunState = {
				info,
				reached: false,
				pool: ZERO,
				made: ZERO,
				total: ZERO,
				waiting: false,
				measured: true,
				shares: [],
				parts: new Set()
			};
			this.runs.set(info.id, run);
			const unit = info.unit && this.states.get(info.unit);
			if (unit) unit.unitRun = run;
		}
		const givers = this.sumOutputs();
		if (givers.size) this.sumGivenBack(givers);
	}

	/** What a pooled run gives back of a mark is what was put in last. @param givers the runs that give something back */
	private sumGivenBack(givers: ReadonlySet<string>) {
		const open = new Map<string, Fraction>();
		const within = [...this.slice.movements].filter((m) => m.role !== 'make' && givers.has(m.run ?? ''));
		for (const m of within.reverse()) {
			const key = `${m.run} ${m.mark}`;
			const rest = open.get(key) ?? ZERO;
			const qty = this.read(m.qty);
			if (m.role === 'detach') open.set(key, plus(rest, qty));
			else if (!isNone(rest)) {
				const back = above(qty, rest) ? rest : qty;
				this.back.set(m.id, back);
				open.set(key, minus(rest, back));
			}
		}
	}

	/**
	 * How much each pooled run makes in all: in a common measure where every output states one.
	 * @returns the pooled runs that give something back
	 */
	private sumOutputs(): ReadonlySet<string> {
		const givers = new Set<string>();
		const sums = new Map<RunState, { unit: string | null; measured: Fraction | null; pieces: Fraction }>();
		for (const m of this.slice.movements) {
			if (m.role !== 'make' && m.role !== 'detach') continue;
			const run = this.runs.get(m.run!)!;
			if (run.info.unit) continue;
			if (m.role === 'detach') {
				givers.add(m.run!);
				continue;
			}
			const { measure, measureUnit: unit = null } = this.states.get(m.mark)!.info;
			const qty = this.read(m.qty);
			let sum = sums.get(run);
			if (!sum) sums.set(run, (sum = { unit, measured: ZERO, pieces: ZERO }));
			sum.pieces = plus(sum.pieces, qty);
			sum.measured =
				sum.measured && measure && sum.unit === unit ? plus(sum.measured, part(qty, this.read(measure), ONE)) : null;
		}
		for (const [run, { measured, pieces }] of sums) {
			run.measured = measured !== null;
			run.total = measured ?? pieces;
		}
		return givers;
	}

	private measure(run: RunState, m: Moved): Fraction {
		const info = this.states.get(m.mark)!.info;
		return run.measured && info.measure ? part(this.read(m.qty), this.read(info.measure), ONE) : this.read(m.qty);
	}

	run(since?: string): void {
		if (!since) this.activate('');
		for (const m of this.slice.movements) {
			if (!this.active && m.at >= since!) this.activate(since!);
			this.apply(m);
			this.nth++;
		}
		if (!this.active) this.activate(since!);
	}

	get marks(): Forward['marks'] {
		return this.marksReached();
	}
	get where(): Forward['where'] {
		return this.whereNow();
	}
	get flows(): Forward['flows'] {
		return this.waysTaken();
	}
	get known(): Known {
		const known = { ...this.knownWay };
		for (const s of this.shown()) {
			const extra = this.within(s);
			for (const slot of s.slots())
				if (slot.place.virtual && this.stands(s, slot, extra)) known[slot.evidence ?? 'unknown']++;
		}
		return known;
	}
	private *marksReached() {
		for (const { info, since, reached } of this.states.values())
			if (since !== null) yield { mark: info.id, since, now: reached };
	}
	private *waysTaken() {
		let nth = 0;
		for (const m of this.slice.movements) {
			const content = this.carried[nth++];
			if (content) yield flowOf(m, content);
		}
	}

	/** From now on the roots are reached: what stands at real places is root. */
	private activate(at: string) {
		this.active = true;
		for (const id of this.roots) {
			const s = this.states.get(id);
			if (!s) continue;
			s.permanent = true;
			s.reached = true;
			for (const slot of s.slots())
				if (!slot.place.virtual) {
					slot.content = slot.qty;
					this.rootQty = plus(this.rootQty, slot.qty);
				}
			if (s.inside) {
				s.own = ONE;
				this.rootQty = plus(this.rootQty, ONE);
			}
			if (at) {
				s.since ??= at;
				if (s.inside) this.settle(s.inside, at);
			}
		}
	}

	/** What stands at a place. What customers, suppliers and jobs have is held apart; every other place is one. */
	private slot(s: MarkState, id: string, m: Moved): Slot {
		const place = this.places.get(id)!;
		const apart = place.away?.apart;
		return s.slot(place, apart ? (m[apart] ?? null) : null);
	}

	/** Takes a quantity out of a place; gives back the root content that goes with it. */
	private take(s: MarkState, slot: Slot, qty: Fraction): Fraction {
		if (slot.place.code === '@supplier' || slot.qty.s <= 0n || isNone(slot.qty)) return ZERO;
		const taken = above(qty, slot.qty) ? slot.qty : qty;
		let content = part(slot.content, taken, slot.qty);
		if (slot.place.virtual) {
			// What comes back counts first against what was not reached.
			const notReached = minus(slot.qty, slot.reached);
			const reachedPart = above(taken, notReached) ? minus(taken, notReached) : ZERO;
			slot.reached = minus(slot.reached, reachedPart);
			if (s.root) content = reachedPart;
		}
		slot.content = minus(slot.content, content);
		slot.qty = minus(slot.qty, taken);
		if (!slot.place.virtual && isNone(slot.qty)) s.leave(slot);
		return content;
	}

	/** Puts a quantity with its content at a place. Root that comes from outside is new root. */
	private put(s: MarkState, m: Moved, qty: Fraction, content: Fraction, fromOutside: boolean) {
		const slot = this.slot(s, m.to, m);
		if (s.root && this.active) {
			if (fromOutside && above(qty, content)) {
				this.rootQty = plus(this.rootQty, minus(qty, content));
				content = qty;
			}
			s.since ??= m.at;
		}
		slot.qty = plus(slot.qty, qty);
		slot.content = plus(slot.content, content);
		if (!slot.place.virtual || !s.reached) return;
		slot.reached = plus(slot.reached, qty);
		slot.evidence = m.evidence ?? null;
		if (m.evidence === 'accepted') this.gaps.push(gapOf('not looked at', m));
	}

	private apply(m: Moved) {
		const s = this.states.get(m.mark)!;
		const qty = this.read(m.qty);
		if (s.info.kind === 'unmarked') return this.applyUnmarked(s, m);
		if (m.role === 'use') return this.use(s, m, qty);
		if (m.role === 'make') return this.make(s, m, qty);
		if (m.role === 'detach') return this.detach(s, m, qty);
		const from = this.slot(s, m.from, m);
		const content = this.take(s, from, qty);
		this.put(s, m, qty, content, from.place.virtual);
		if (from.place.code === '@adjust' && s.reached) this.gaps.push(gapOf('adjusted in', m));
	}

	private use(s: MarkState, m: Moved, qty: Fraction) {
		const run = this.runs.get(m.run!)!;
		const content = this.take(s, this.slot(s, m.from, m), qty);
		let carried = content;
		if (run.info.unit) {
			if (s.info.kind === 'serial') {
				s.own = content;
				s.inside = run;
				run.parts.add(s);
				carried = this.total(s);
			} else run.shares.push({ mark: m.mark, qty, content, reached: s.reached });
			this.settle(run, m.at);
		} else {
			const back = this.back.get(m.id);
			if (back) carried = minus(content, this.setAside(m, back, part(content, back, qty)));
			const stays = !back || above(qty, back);
			if (stays && s.info.kind === 'serial' && s.unitRun) {
				carried = plus(carried, this.inUnit(s.unitRun));
				this.drain(s.unitRun);
			}
			run.pool = plus(run.pool, carried);
			if (s.reached) run.reached = true;
			if (s.reached && stays) run.waiting = true;
		}
		if (s.reached) this.flow(m, carried);
	}

	/** Content given to an output: by quantity, over all outputs still to come (and planned, while the run is open). */
	private share(run: RunState, m: Moved): Fraction {
		const q = this.measure(run, m);
		let rest = minus(run.total, run.made);
		if (run.info.planned && !run.info.closed) {
			const info = this.states.get(m.mark)!.info;
			const factor = run.measured && info.measure ? this.read(info.measure) : ONE;
			const planned = minus(part(this.read(run.info.planned), factor, ONE), run.made);
			if (above(planned, rest)) rest = planned;
		}
		run.made = plus(run.made, q);
		if (isNone(run.pool)) return ZERO;
		const given = part(run.pool, q, rest);
		run.pool = minus(run.pool, given);
		return given;
	}

	private make(s: MarkState, m: Moved, qty: Fraction) {
		const run = this.runs.get(m.run!)!;
		if (run.info.unit) {
			s.made = true;
			this.put(s, m, qty, ZERO, true);
			this.settle(run, m.at);
			if (s.reached) this.flow(m, this.inUnit(run));
			return;
		}
		const content = this.share(run, m);
		run.waiting = false;
		if (run.reached && !s.permanent) {
			s.permanent = true;
			this.reach(s, m.at);
		}
		this.put(s, m, qty, content, true);
		if (run.reached) this.flow(m, content);
	}

	private detach(s: MarkState, m: Moved, qty: Fraction) {
		const run = this.runs.get(m.run!)!;
		if (!run.info.unit) return this.giveBack(s, m, qty);
		let content = ZERO;
		let was = s.reached;
		if (s.info.kind === 'serial') {
			content = s.own;
			s.own = ZERO;
			s.inside = null;
			run.parts.delete(s);
		} else {
			const mine = run.shares.filter((x) => x.mark === m.mark);
			const held = mine.reduce((sum, x) => plus(sum, x.qty), ZERO);
			const share = isNone(held) ? ZERO : above(qty, held) ? ONE : part(qty, ONE, held);
			was = mine.some((x) => x.reached);
			for (const x of mine) {
				const out = part(x.content, share, ONE);
				content = plus(content, out);
				x.content = minus(x.content, out);
				x.qty = minus(x.qty, part(x.qty, share, ONE));
			}
			run.shares = run.shares.filter((x) => !isNone(x.qty));
		}
		this.put(s, m, qty, content, false);
		this.settle(run, m.at);
		if (was) this.flow(m, content);
	}

	/** What will be given back waits beside its run. @returns the content that waits with it */
	private setAside(m: Moved, qty: Fraction, content: Fraction): Fraction {
		const key = `${m.run} ${m.mark}`;
		const was = this.aside.get(key);
		this.aside.set(key, was ? { qty: plus(was.qty, qty), content: plus(was.content, content) } : { qty, content });
		return content;
	}

	/** What was put into a pooled run and not used comes back as it went in. */
	private giveBack(s: MarkState, m: Moved, qty: Fraction) {
		const key = `${m.run} ${m.mark}`;
		const aside = this.aside.get(key) ?? { qty: ZERO, content: ZERO };
		const content = isNone(aside.qty) ? ZERO : part(aside.content, qty, aside.qty);
		this.aside.set(key, { qty: minus(aside.qty, qty), content: minus(aside.content, content) });
		// Of a root that went in before it counts, what comes back counts like what comes from outside.
		this.put(s, m, qty, content, true);
		if (s.reached) this.flow(m, content);
	}

	private applyUnmarked(s: MarkState, m: Moved) {
		if (m.role !== 'make') return;
		const run = this.runs.get(m.run!)!;
		const content = this.share(run, m);
		run.waiting = false;
		if (!run.reached) return;
		const row = this.unmarked.get(s.info.id) ?? {
			mark: s.info.id,
			run: null,
			state: 'unmarked' as State,
			at: null,
			qty: '0',
			content: ZERO
		};
		row.qty = decimal(plus(new Fraction(row.qty!), this.read(m.qty)));
		row.content = plus(row.content, content);
		this.unmarked.set(s.info.id, row);
		this.gaps.push(gapOf('unmarked made', m));
		this.carry(m, content);
	}

	/** One link of the way, with the content that goes by it. */
	private flow(m: Moved, content: Fraction) {
		this.carry(m, content);
		this.knownWay[m.evidence ?? 'unknown']++;
	}
	/** Content goes by a movement. */
	private carry(m: Moved, content: Fraction) {
		this.carried[this.nth] = content;
		if (m.evidence === 'accepted') this.gaps.push(gapOf('not looked at', m));
	}

	private reach(s: MarkState, at: string) {
		if (s.reached) return;
		s.reached = true;
		s.since ??= at;
	}

	/** A finished unit is reached exactly while something in it is; the change goes outward. */
	private settle(run: RunState, at: string) {
		const unit = this.states.get(run.info.unit!);
		if (!unit || unit.permanent) return;
		const inside =
			unit.made && (run.shares.some((x) => x.reached && !isNone(x.qty)) || [...run.parts].some((p) => p.reached));
		if (inside === unit.reached) return;
		if (inside) this.reach(unit, at);
		else unit.reached = false;
		if (unit.inside) this.settle(unit.inside, at);
	}

	private inUnit(run: RunState): Fraction {
		let sum = ZERO;
		for (const x of run.shares) sum = plus(sum, x.content);
		for (const p of run.parts) sum = plus(sum, this.total(p));
		return sum;
	}
	private total = (s: MarkState): Fraction => plus(s.own, this.within(s));

	private drain(run: RunState) {
		for (const x of run.shares) x.content = ZERO;
		for (const p of run.parts) {
			p.own = ZERO;
			if (p.unitRun) this.drain(p.unitRun);
		}
	}

	/** The marks of which it matters where they are. */
	private *shown(): Generator<MarkState> {
		for (const s of this.states.values()) if (s.since !== null && !s.inside && s.info.kind !== 'unmarked') yield s;
	}
	/** Content of what is built into a unit. */
	private within = (s: MarkState): Fraction => (s.unitRun ? this.inUnit(s.unitRun) : ZERO);
	/** What of a mark stands at a place, with the content that is in it; null where nothing of it shows. */
	private stands(s: MarkState, slot: Slot, extra: Fraction): { qty: Fraction; content: Fraction } | null {
		const { virtual } = slot.place;
		const serial = s.info.kind === 'serial';
		const qty = !virtual || (serial && !s.root) ? slot.qty : slot.reached;
		const content = serial && !isNone(slot.qty) ? plus(slot.content, extra) : slot.content;
		// Content always shows, whatever the quantity says: the balance must add up.
		if (isNone(content) && (qty.s <= 0n || isNone(qty) || !s.reached)) return null;
		return virtual && slot.qty.s <= 0n ? null : { qty, content };
	}
	private *whereNow(): Generator<Where> {
		for (const s of this.shown()) {
			const extra = this.within(s);
			for (const slot of s.slots()) {
				const there = this.stands(s, slot, extra);
				if (!there) continue;
				const { place, holder } = slot;
				yield {
					mark: s.info.id,
					run: null,
					state: place.away?.state ?? 'on hand',
					at: place.away ? holder : place.id,
					qty: decimal(there.qty),
					content: there.content,
					evidence: place.virtual ? slot.evidence : undefined
				};
			}
		}
		yield* this.unmarked.values();
		for (const run of this.runs.values()) {
			const unit = run.info.unit ? this.states.get(run.info.unit) : null;
			const content = unit ? this.inUnit(run) : run.pool;
			const open = unit
				? !unit.made && (!isNone(content) || run.shares.some((x) => x.reached) || [...run.parts].some((p) => p.reached))
				: !isNone(content) || run.waiting;
			if (open)
				yield {
					mark: null,
					run: run.info.id,
					state: 'in process',
					at: null,
					qty: null,
					content
				};
		}
	}
}
