import Fraction from 'fraction.js';
import type { Forward, Gap, LedgerSlice, MarkInfo, Moved, RunInfo, State, Where } from './types.ts';

const ZERO = new Fraction(0);
/** As decimal text; whole numbers, the most there are, without the search for a period. */
const decimal = (f: Fraction) => (f.d === 1n ? String(f.s * f.n) : f.toString(12));
/** Quantities read once: most movements of a trace share a few of them, and fractions never change. */
const reader = () => {
	const known = new Map<string, Fraction>();
	return (qty: string) => {
		let f = known.get(qty);
		if (!f) known.set(qty, (f = new Fraction(qty)));
		return f;
	};
};

/** What stands of a mark at one place (or with one customer). */
interface Slot {
	qty: Fraction;
	content: Fraction;
	/** at virtual places: how much came while the mark was reached */
	reached: Fraction;
}
interface MarkState {
	info: MarkInfo;
	root: boolean;
	/** reached for good: a root, a lot, a serial out of a pooled run */
	permanent: boolean;
	reached: boolean;
	made: boolean;
	spans: [string, string | null][];
	slots: Map<string, Slot>;
	/** content of a serial while it is built into a unit */
	own: Fraction;
	inside: RunState | null;
	unitRun: RunState | null;
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
 * Graphs, VLDB 2014), with intervals for the contents of serialised units. Content is well mixed at each place and
 * spread over a pooled run's later outputs by quantity; all arithmetic is exact, so the contents add up to rootQty.
 *
 * @param roots the mark, or a lot and the serials that belong to it
 * @param since reached from this time on (ISO, the slice's width); default: from the first movement
 * @param slice all movements of every mark that could be reached, up to the time asked for
 */
export function traceForward(slice: LedgerSlice, roots: string[], since?: string): Forward {
	return new Replay(slice, roots).run(since);
}

class Replay {
	private marks = new Map<string, MarkState>();
	private runs = new Map<string, RunState>();
	private rootQty = ZERO;
	private active = false;
	private flows: Forward['flows'] = [];
	private gaps: Gap[] = [];
	private unmarked = new Map<string, Where>();
	private read = reader();
	private slice: LedgerSlice;
	private roots: string[];

	constructor(slice: LedgerSlice, roots: string[]) {
		this.slice = slice;
		this.roots = roots;
		const isRoot = new Set(roots);
		for (const info of slice.marks.values())
			this.marks.set(info.id, {
				info,
				root: isRoot.has(info.id),
				permanent: false,
				reached: false,
				made: false,
				spans: [],
				slots: new Map(),
				own: ZERO,
				inside: null,
				unitRun: null
			});
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
			const unit = info.unit && this.marks.get(info.unit);
			if (unit) unit.unitRun = run;
		}
		this.sumOutputs();
	}

	/** How much each pooled run makes in all: in a common measure where every output states one. */
	private sumOutputs() {
		const units = new Map<RunState, Set<string>>();
		const makes = this.slice.movements.filter((m) => m.role === 'make');
		for (const m of makes) {
			const run = this.runs.get(m.run!)!;
			const info = this.marks.get(m.mark)!.info;
			if (!units.has(run)) units.set(run, new Set());
			units.get(run)!.add(info.measure ? info.measureUnit! : '-');
		}
		for (const [run, set] of units) run.measured = set.size === 1 && !set.has('-');
		for (const m of makes) {
			const run = this.runs.get(m.run!)!;
			if (!run.info.unit) run.total = run.total.add(this.measure(run, m));
		}
	}

	private measure(run: RunState, m: Moved): Fraction {
		const info = this.marks.get(m.mark)!.info;
		return run.measured && info.measure ? this.read(m.qty).mul(info.measure) : this.read(m.qty);
	}

	run(since?: string): Forward {
		if (!since) this.activate('');
		for (const m of this.slice.movements) {
			if (!this.active && m.at >= since!) this.activate(since!);
			this.apply(m);
		}
		if (!this.active) this.activate(since!);
		return {
			rootQty: this.rootQty,
			marks: [...this.marks.values()]
				.filter((s) => s.spans.length)
				.map((s) => ({ mark: s.info.id, since: s.spans[0][0], now: s.reached, spans: s.spans })),
			where: this.where(),
			flows: this.flows,
			gaps: this.gaps
		};
	}

	/** From now on the roots are reached: what stands at real places is root. */
	private activate(at: string) {
		this.active = true;
		for (const id of this.roots) {
			const s = this.marks.get(id);
			if (!s) continue;
			s.permanent = true;
			s.reached = true;
			for (const [key, slot] of s.slots)
				if (this.isReal(key)) {
					slot.content = slot.qty;
					this.rootQty = this.rootQty.add(slot.qty);
				}
			if (s.inside) {
				s.own = new Fraction(1);
				this.rootQty = this.rootQty.add(1);
			}
			if (at) {
				s.spans.push([at, null]);
				if (s.inside) this.settle(s.inside, at);
			}
		}
	}

	private isReal = (key: string) => {
		const place = this.slice.places.get(key);
		return place ? !place.virtual : false;
	};

	/** Customers and suppliers hold separately; every other place is one. */
	private key(place: string, partner: string | null): string {
		const code = this.slice.places.get(place)!.code;
		return code === '@customer' || code === '@supplier' ? `${code}|${partner ?? ''}` : place;
	}

	private slot(s: MarkState, key: string): Slot {
		let slot = s.slots.get(key);
		if (!slot) s.slots.set(key, (slot = { qty: ZERO, content: ZERO, reached: ZERO }));
		return slot;
	}

	/** Takes a quantity out of a place; gives back the root content that goes with it. */
	private take(s: MarkState, place: string, partner: string | null, qty: Fraction): Fraction {
		const slot = this.slot(s, this.key(place, partner));
		const code = this.slice.places.get(place)!.code;
		if (code === '@supplier' || slot.qty.s <= 0n || slot.qty.n === 0n) return ZERO;
		const taken = qty.compare(slot.qty) > 0 ? slot.qty : qty;
		if (this.slice.places.get(place)!.virtual) {
			// What comes back counts first against what was not reached.
			const notReached = slot.qty.sub(slot.reached);
			const reachedPart = taken.compare(notReached) > 0 ? taken.sub(notReached) : ZERO;
			slot.reached = slot.reached.sub(reachedPart);
			const content = s.root ? reachedPart : slot.content.mul(taken).div(slot.qty);
			slot.content = slot.content.sub(content);
			slot.qty = slot.qty.sub(taken);
			return content;
		}
		const content = taken.equals(slot.qty) ? slot.content : slot.content.mul(taken).div(slot.qty);
		slot.content = slot.content.sub(content);
		slot.qty = slot.qty.sub(taken);
		return content;
	}

	/** Puts a quantity with its content at a place. Root that comes from outside is new root. */
	private put(s: MarkState, m: Moved, qty: Fraction, content: Fraction, fromOutside: boolean) {
		const slot = this.slot(s, this.key(m.to, m.partner));
		const real = !this.slice.places.get(m.to)!.virtual;
		if (s.root && this.active) {
			if (fromOutside && qty.compare(content) > 0) {
				this.rootQty = this.rootQty.add(qty.sub(content));
				content = qty;
			}
			if (!s.spans.length) s.spans.push([m.at, null]);
		}
		slot.qty = slot.qty.add(qty);
		slot.content = slot.content.add(content);
		if (!real && s.reached) slot.reached = slot.reached.add(qty);
	}

	private apply(m: Moved) {
		const s = this.marks.get(m.mark)!;
		const qty = this.read(m.qty);
		if (s.info.kind === 'unmarked') return this.applyUnmarked(s, m);
		if (m.role === 'use') return this.use(s, m, qty);
		if (m.role === 'make') return this.make(s, m, qty);
		if (m.role === 'detach') return this.detach(s, m, qty);
		const from = this.slice.places.get(m.from)!;
		const content = this.take(s, m.from, m.partner, qty);
		this.put(s, m, qty, content, from.virtual);
		if (from.code === '@adjust' && s.reached)
			this.gaps.push({ kind: 'adjusted in', mark: m.mark, run: null, event: m.event, qty: m.qty });
	}

	private use(s: MarkState, m: Moved, qty: Fraction) {
		const run = this.runs.get(m.run!)!;
		const content = this.take(s, m.from, m.partner, qty);
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
			if (s.info.kind === 'serial' && s.unitRun) {
				carried = content.add(this.inUnit(s.unitRun));
				this.drain(s.unitRun);
			}
			run.pool = run.pool.add(carried);
			if (s.reached) run.reached = run.waiting = true;
		}
		if (s.reached)
			this.flows.push({ run: run.info.id, role: 'use', mark: m.mark, qty: m.qty, at: m.at, event: m.event, content: carried }); // prettier-ignore
	}

	/** Content given to an output: by quantity, over all outputs still to come (and planned, while the run is open). */
	private share(run: RunState, m: Moved): Fraction {
		const q = this.measure(run, m);
		let rest = run.total.sub(run.made);
		if (run.info.planned && !run.info.closed) {
			const info = this.marks.get(m.mark)!.info;
			const factor = run.measured && info.measure ? info.measure : 1;
			const planned = new Fraction(run.info.planned).mul(factor).sub(run.made);
			if (planned.compare(rest) > 0) rest = planned;
		}
		run.made = run.made.add(q);
		if (run.pool.n === 0n) return ZERO;
		const given = q.equals(rest) ? run.pool : run.pool.mul(q).div(rest);
		run.pool = run.pool.sub(given);
		return given;
	}

	private make(s: MarkState, m: Moved, qty: Fraction) {
		const run = this.runs.get(m.run!)!;
		if (run.info.unit) {
			s.made = true;
			this.put(s, m, qty, ZERO, true);
			this.settle(run, m.at);
			if (s.reached)
				this.flows.push({ run: run.info.id, role: 'make', mark: m.mark, qty: m.qty, at: m.at, event: m.event, content: this.inUnit(run) }); // prettier-ignore
			return;
		}
		const content = this.share(run, m);
		run.waiting = false;
		if (run.reached && !s.permanent) {
			s.permanent = true;
			this.reach(s, m.at);
		}
		this.put(s, m, qty, content, true);
		if (run.reached)
			this.flows.push({ run: run.info.id, role: 'make', mark: m.mark, qty: m.qty, at: m.at, event: m.event, content }); // prettier-ignore
	}

	private detach(s: MarkState, m: Moved, qty: Fraction) {
		const run = this.runs.get(m.run!)!;
		let content = ZERO;
		let was = s.reached;
		if (s.info.kind === 'serial') {
			content = s.own;
			s.own = ZERO;
			s.inside = null;
			run.parts.delete(s);
		} else {
			const mine = run.shares.filter((x) => x.mark === m.mark);
			const held = mine.reduce((sum, x) => sum.add(x.qty), ZERO);
			const part = held.n === 0n ? ZERO : qty.compare(held) > 0 ? new Fraction(1) : qty.div(held);
			was = mine.some((x) => x.reached);
			for (const x of mine) {
				const out = x.content.mul(part);
				content = content.add(out);
				x.content = x.content.sub(out);
				x.qty = x.qty.sub(x.qty.mul(part));
			}
			run.shares = run.shares.filter((x) => x.qty.n !== 0n);
		}
		this.put(s, m, qty, content, false);
		this.settle(run, m.at);
		if (was)
			this.flows.push({ run: run.info.id, role: 'detach', mark: m.mark, qty: m.qty, at: m.at, event: m.event, content }); // prettier-ignore
	}

	private applyUnmarked(s: MarkState, m: Moved) {
		if (m.role !== 'make') return;
		const run = this.runs.get(m.run!)!;
		const content = this.share(run, m);
		run.waiting = false;
		if (!run.reached) return;
		const row = this.unmarked.get(s.info.id) ?? {
			...{ mark: s.info.id, run: null, state: 'unmarked' as State, at: null },
			...{ qty: '0', content: ZERO }
		};
		row.qty = new Fraction(row.qty!).add(m.qty).toString(12);
		row.content = row.content.add(content);
		this.unmarked.set(s.info.id, row);
		this.gaps.push({ kind: 'unmarked made', mark: m.mark, run: m.run, event: m.event, qty: m.qty });
		this.flows.push({ run: m.run!, role: 'make', mark: m.mark, qty: m.qty, at: m.at, event: m.event, content }); // prettier-ignore
	}

	private reach(s: MarkState, at: string) {
		if (s.reached) return;
		s.reached = true;
		s.spans.push([at, null]);
	}

	/** A finished unit is reached exactly while something in it is; the change goes outward. */
	private settle(run: RunState, at: string) {
		const unit = this.marks.get(run.info.unit!);
		if (!unit || unit.permanent) return;
		const inside =
			unit.made && (run.shares.some((x) => x.reached && x.qty.n !== 0n) || [...run.parts].some((p) => p.reached));
		if (inside === unit.reached) return;
		if (inside) this.reach(unit, at);
		else {
			unit.reached = false;
			unit.spans[unit.spans.length - 1][1] = at;
		}
		if (unit.inside) this.settle(unit.inside, at);
	}

	private inUnit(run: RunState): Fraction {
		let sum = ZERO;
		for (const x of run.shares) if (x.content.n !== 0n) sum = sum.add(x.content);
		for (const p of run.parts) sum = sum.add(this.total(p));
		return sum;
	}
	private total = (s: MarkState): Fraction => (s.unitRun ? s.own.add(this.inUnit(s.unitRun)) : s.own);

	private drain(run: RunState) {
		for (const x of run.shares) x.content = ZERO;
		for (const p of run.parts) {
			p.own = ZERO;
			if (p.unitRun) this.drain(p.unitRun);
		}
	}

	private where(): Where[] {
		const rows: Where[] = [];
		for (const s of this.marks.values()) {
			if (!s.spans.length || s.inside || s.info.kind === 'unmarked') continue;
			const extra = s.unitRun ? this.inUnit(s.unitRun) : ZERO;
			for (const [key, slot] of s.slots) {
				const real = this.isReal(key);
				const serial = s.info.kind === 'serial';
				const qty = real || (serial && !s.root) ? slot.qty : slot.reached;
				const content = serial && slot.qty.n !== 0n ? slot.content.add(extra) : slot.content;
				// Content always shows, whatever the quantity says: the balance must add up.
				if (content.n === 0n && (qty.s <= 0n || qty.n === 0n || !s.reached)) continue;
				if (!real && slot.qty.s <= 0n) continue;
				const [state, at] = this.stateOf(key);
				rows.push({ mark: s.info.id, run: null, state, at, qty: decimal(qty), content });
			}
		}
		rows.push(...this.unmarked.values());
		for (const run of this.runs.values()) {
			const unit = run.info.unit ? this.marks.get(run.info.unit) : null;
			const content = unit ? this.inUnit(run) : run.pool;
			const open = unit
				? !unit.made && (content.n !== 0n || run.shares.some((x) => x.reached) || [...run.parts].some((p) => p.reached))
				: content.n !== 0n || run.waiting;
			if (open)
				rows.push({
					mark: null,
					run: run.info.id,
					state: 'in process',
					at: null,
					qty: null,
					content
				});
		}
		return rows;
	}

	private stateOf(key: string): [State, string | null] {
		if (key.startsWith('@customer|')) return ['shipped', key.slice(10) || null];
		if (key.startsWith('@supplier|')) return ['sent back', key.slice(10) || null];
		const place = this.slice.places.get(key)!;
		if (place.code === '@scrap') return ['scrapped', null];
		if (place.code === '@adjust') return ['adjusted', null];
		return ['on hand', key];
	}
}
