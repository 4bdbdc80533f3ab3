import { weakest, type Evidence, type Known } from '../ledger/evidence.ts';
import { foldChildren, foldWhere, type FoldedRow } from './fold.ts';
import { layStages, MOST_BARS, type Stages } from './stages.ts';
import { treeOf, type TraceMark, type TraceView, type TreeNode, type WhereRow } from './view.ts';

/** The parts of an answer that are looked at by themselves. */
export const PARTS = ['where', 'numbers', 'customers', 'suppliers', 'gaps', 'formerly'] as const;
/** One of them. */
export type Part = (typeof PARTS)[number];

/** What a trace says as a whole, whatever its size. */
export interface TraceHead {
	direction: 'forward' | 'back';
	root: TraceMark;
	/** how many marks it starts from: a lot and its serials */
	roots: number;
	unit: string;
	rootQty: string | null;
	/** contents are shares, shown finer than its unit counts */
	shares: boolean;
	/** generations, and numbers reached */
	levels: number;
	reached: number;
	/** runs on the way that made many pieces at once, and those of one piece */
	pooled: number;
	exact: number;
	known: Known;
	balance: { state: string; content: string; count: number }[];
	accounted: boolean | null;
	/** how many rows each part has; ranges count what is in them */
	counts: Record<Part, number>;
	/** runs that took some and put nothing out yet: the first, and how many there are */
	open: string[];
	openCount: number;
}
/** Numbers of one line: one, or serials in a row. */
export interface Numbers {
	first: TraceMark;
	last: TraceMark;
	count: number;
}
/** A line of a part, as it is shown. What a part has none of is null. */
export interface Line {
	key: string;
	/** how far it stands in: a generation, or the pieces of a range */
	level: number;
	/** a heading over the lines after it, and nothing else */
	heading: string | null;
	numbers: Numbers | null;
	/** it folds and unfolds, and which of both it is now */
	folds: boolean;
	open: boolean;
	qty: string | null;
	content: string | null;
	run: string | null;
	document: string | null;
	/** a day as YYYY-MM-DD; empty where none is known */
	date: string;
	state: string | null;
	at: string | null;
	/** how it is known that it was this one; undefined where nobody has to say */
	known?: Evidence | null;
	/** of a generation: how the way to it is proven, and whether it is not reached any more or was taken out */
	proven: 'start' | 'above' | 'exact' | 'pooled' | null;
	noLonger: boolean;
	taken: boolean;
	/** of a gap: what is not proven */
	what: string | null;
}
const LINE: Omit<Line, 'key'> = {
	...{ level: 0, heading: null, numbers: null, folds: false, open: false, qty: null, content: null, run: null },
	...{ document: null, date: '', state: null, at: null, proven: null, noLonger: false, taken: false, what: null }
};

/** Which lines of a part are asked. */
export interface Asked {
	part: Part;
	/** a text that a line has in its numbers, item, place, document or state; all without */
	find: string;
	/** keys of lines that were unfolded, and of those that were folded, other than they are at first */
	opened: readonly string[];
	closed: readonly string[];
	from: number;
	size: number;
}
/** Lines of a part, as far as they were asked. */
export interface LinePage {
	lines: Line[];
	/** how many there are, as folded as they are */
	total: number;
}

/** What a look at a trace shows of it: whatever was wanted. */
export interface Looked {
	head: TraceHead | null;
	stages: Stages | null;
	page: LinePage | null;
}

/** From so many numbers on, generations below the first are folded at first. */
const LARGE = 150;
const OPEN_NAMED = 20;
/** The most lines that are given at once. */
export const MOST_LINES = 100;

/** Is it with a customer: shipped, to whomever, or issued to a job for one? */
const withCustomer = (w: WhereRow) => w.state === 'shipped' || w.customer !== null;

/** A trace, shown part by part: only what is looked at is laid out, and stays laid out. */
export class Shown {
	private marks: Map<string, TraceMark>;
	private folded: FoldedRow[] | undefined;
	private tree: TreeNode | undefined;
	private since: Map<string, TraceView['reached'][0]>;
	readonly view: TraceView;

	constructor(view: TraceView) {
		this.view = view;
		this.marks = new Map(view.marks.map((m) => [m.id, m]));
		this.since = new Map(view.reached.map((r) => [r.mark, r]));
	}

	/** How many numbers it holds: what keeping it costs. */
	get weight(): number {
		return this.view.marks.length;
	}

	head(): TraceHead {
		const { view } = this;
		const open = view.steps.filter((s) => s.open && s.pooled).map((s) => s.run);
		const customers = new Set(view.where.filter(withCustomer).map((w) => w.customer));
		return {
			direction: view.direction,
			root: this.marks.get(view.root)!,
			roots: view.roots,
			unit: view.unit,
			rootQty: view.rootQty,
			shares: view.shares,
			levels: view.levels,
			reached: view.reached.length,
			pooled: view.pooled,
			exact: view.exact,
			known: view.known,
			balance: view.balance,
			accounted: view.accounted ?? null,
			counts: {
				where: view.where.length,
				numbers: view.reached.length,
				customers: customers.size,
				suppliers: view.suppliers.length,
				gaps: view.gaps.length,
				formerly: view.formerly.length
			},
			open: open.slice(0, OPEN_NAMED),
			openCount: open.length
		};
	}

	/** The picture of a forward trace. @param bars how many bars a column shows, where that is more than at first */
	stages(bars: ReadonlyMap<number, number> = new Map()): Stages {
		return layStages(this.view, (col) => Math.max(MOST_BARS, bars.get(col) ?? 0));
	}

	/** Lines of a part. */
	lines(asked: Asked): LinePage {
		const find = asked.find.trim().toLowerCase();
		const opened = new Set(asked.opened);
		const closed = new Set(asked.closed);
		const all =
			asked.part === 'where'
				? this.where(() => true, opened, find)
				: asked.part === 'customers'
					? this.customers(opened, find)
					: asked.part === 'numbers'
						? find
							? this.found(find)
							: this.generations(opened, closed)
						: this.plain(asked.part).filter((l) => fits(l, find));
		return { lines: all.slice(asked.from, asked.from + asked.size), total: all.length };
	}

	private where(of: (r: FoldedRow) => boolean, opened: ReadonlySet<string>, find: string): Line[] {
		this.folded ??= foldWhere(this.view.where, this.marks);
		const out: Line[] = [];
		for (const r of this.folded) {
			if (!of(r)) continue;
			const line: Line = {
				...LINE,
				key: r.key,
				numbers: r.first && { first: r.first, last: r.last!, count: r.inner.length || 1 },
				folds: r.inner.length > 1,
				open: r.inner.length > 1 && opened.has(r.key),
				...{ qty: r.qty, content: r.content, run: r.run, document: r.document },
				...{ date: r.date ?? '', state: r.state, at: r.at, known: r.known }
			};
			// A range is found by any of its numbers.
			const inner = find ? r.inner.filter((w) => has(this.marks.get(w.mark!)!.number, find)) : r.inner;
			if (!fits(line, find) && !inner.length) continue;
			out.push(line);
			if (!line.open) continue;
			for (const w of fits(line, find) ? r.inner : inner) {
				const m = this.marks.get(w.mark!)!;
				out.push({ ...LINE, key: `${r.key} ${m.id}`, level: 1, numbers: one(m), qty: w.qty, content: w.content });
			}
		}
		return out;
	}

	private customers(opened: ReadonlySet<string>, find: string): Line[] {
		const has = new Map(this.view.where.filter(withCustomer).map((w) => [`${w.state} ${w.at}`, w.customer]));
		const lines = this.where((r) => has.has(`${r.state} ${r.at}`), opened, find);
		// What was issued to a job of theirs stands with what was shipped to them.
		const byCustomer = new Map<string | null, Line[]>();
		let of: string | null = null;
		for (const l of lines) {
			if (!l.level) of = has.get(`${l.state} ${l.at}`) ?? null;
			const theirs = byCustomer.get(of);
			if (theirs) theirs.push(l);
			else byCustomer.set(of, [l]);
		}
		return [...byCustomer].flatMap(([customer, theirs]) => [
			{ ...LINE, key: `heading ${customer ?? ''}`, heading: customer ?? 'not named' },
			...theirs
		]);
	}

	private generation(n: TreeNode, nodes: readonly TreeNode[]): Omit<Line, 'key' | 'folds' | 'open'> {
		const m = this.marks.get(n.mark)!;
		const many = nodes.length > 1;
		const reached = this.since.get(n.mark);
		const forward = this.view.direction === 'forward';
		return {
			...LINE,
			level: n.level,
			numbers: { first: m, last: this.marks.get(nodes[nodes.length - 1].mark)!, count: nodes.length },
			qty: many ? String(nodes.length) : (n.qty ?? (n.level ? null : this.view.rootQty)),
			content: many ? null : n.content,
			run: many ? null : (n.step?.run ?? null),
			document: n.step?.document ?? null,
			date: (forward ? reached?.since : n.step?.at)?.slice(0, 10) ?? '',
			noLonger: !!reached && !reached.now,
			taken: n.taken,
			proven: n.level === 0 ? 'start' : n.repeated ? 'above' : n.exact ? 'exact' : 'pooled',
			...(n.level && m.kind !== 'unmarked' ? { known: weakest(nodes.map((x) => x.known ?? null)) } : {})
		};
	}

	private generations(opened: ReadonlySet<string>, closed: ReadonlySet<string>): Line[] {
		this.tree ??= treeOf(this.view);
		const large = this.view.reached.length > LARGE;
		const out: Line[] = [];
		const walk = (n: TreeNode, path: string) => {
			const key = `${path}/${n.mark}`;
			const folds = n.children.length > 0;
			const open = folds && (large && n.level > 0 ? opened.has(key) : !closed.has(key));
			out.push({ ...this.generation(n, [n]), key, folds, open });
			if (!open) return;
			for (const nodes of foldChildren(n.children, this.marks)) {
				if (nodes.length === 1) {
					walk(nodes[0], key);
					continue;
				}
				const range = `${key}/${nodes[0].mark}…`;
				const unfolded = opened.has(range);
				out.push({ ...this.generation(nodes[0], nodes), key: range, folds: true, open: unfolded });
				if (unfolded) for (const x of nodes) walk(x, range);
			}
		};
		walk(this.tree, '');
		return out;
	}

	/** Every number that a text is in, once, as deep as it stands first. */
	private found(find: string): Line[] {
		this.tree ??= treeOf(this.view);
		const out: Line[] = [];
		const seen = new Set<string>();
		const walk = (n: TreeNode) => {
			if (!seen.has(n.mark)) {
				seen.add(n.mark);
				const line: Line = { ...this.generation(n, [n]), key: n.mark, folds: false, open: false };
				if (fits(line, find)) out.push({ ...line, level: 0 });
			}
			n.children.forEach(walk);
		};
		walk(this.tree);
		return out;
	}

	private plain(part: Part): Line[] {
		const { view, marks } = this;
		if (part === 'suppliers')
			return view.suppliers.map((s, i) => ({
				...{ ...LINE, key: String(i), numbers: one(marks.get(s.mark)!), at: s.partner },
				...{ document: s.document, known: s.known, date: s.at, qty: s.qty }
			}));
		if (part === 'formerly') return view.formerly.map((id) => ({ ...LINE, key: id, numbers: one(marks.get(id)!) }));
		return view.gaps.map((g, i) => ({
			...{ ...LINE, key: String(i), numbers: g.mark ? one(marks.get(g.mark)!) : null },
			...{ what: g.what, qty: g.qty, run: g.run, document: g.document }
		}));
	}
}
const one = (m: TraceMark): Numbers => ({ first: m, last: m, count: 1 });
const has = (text: string | null | undefined, find: string) => !!text && text.toLowerCase().includes(find);
/** Is a text in what a line says? */
function fits(l: Line, find: string): boolean {
	if (!find) return true;
	const { first, last } = l.numbers ?? {};
	return [
		first?.number,
		last?.number,
		first?.lot,
		first?.item,
		first?.itemName,
		l.at,
		l.document,
		l.state,
		l.run,
		l.what
	].some((text) => has(text, find));
}
