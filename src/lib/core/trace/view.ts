import { weakest, type Evidence, type Known } from '../ledger/evidence.ts';

/** A trace as screens and exports show it: quantities are shown text, marks stand once and are named by id. */
export interface TraceView {
	direction: 'forward' | 'back';
	root: string;
	/** how many marks the trace starts from: a lot and its serials */
	roots: number;
	unit: string;
	marks: TraceMark[];
	steps: Step[];
	reached: { mark: string; since: string; now: boolean }[];
	where: WhereRow[];
	balance: { state: string; content: string; count: number }[];
	/** true when the contents add up to the root exactly */
	accounted?: boolean | null;
	rootQty: string | null;
	/** contents are shares, shown finer than its unit counts */
	shares: boolean;
	suppliers: {
		mark: string;
		qty: string;
		partner: string;
		document: string | null;
		known: Evidence | null;
		at: string;
	}[];
	formerly: string[];
	gaps: ViewGap[];
	/** how many links are known how */
	known: Known;
	/** runs on the way that are pooled, and those of one finished unit */
	pooled: number;
	exact: number;
	levels: number;
}
/** A mark as a trace names it. */
export interface TraceMark {
	id: string;
	kind: 'lot' | 'serial' | 'unmarked';
	number: string;
	lot: string | null;
	item: string;
	itemName: string;
	unit: string;
	expiresOn: string | null;
	status: string;
}
/** One run on the way, with what of the trace went in and came out. */
export interface Step {
	run: string;
	pooled: boolean;
	/** id of the finished unit; null when pooled */
	unit: string | null;
	at: string;
	document: string | null;
	open: boolean;
	inputs: StepSide[];
	outputs: StepSide[];
}
/** What one run took or gave. */
export interface StepSide {
	mark: string;
	role: 'use' | 'make' | 'detach';
	qty: string;
	content: string | null;
	/** the content as a part of the root, 0 to 1: how high it is drawn */
	part: number;
	/** how it is known that it was this one, by the movement that says least */
	known: Evidence | null;
}
/** A place where the root is now, in words. */
export interface WhereRow {
	mark: string | null;
	run: string | null;
	state: string;
	at: string | null;
	/** who has it, where that is a customer: it was shipped there, or issued to a job of theirs */
	customer: string | null;
	document: string | null;
	date: string | null;
	qty: string | null;
	content: string;
	/** the content as a part of the root, 0 to 1: how high it is drawn */
	part: number;
	/** of what is gone: how it is known that it was this one */
	known: Evidence | null;
}
/** A gap, in words. */
export interface ViewGap {
	kind: string;
	what: string;
	mark: string | null;
	run: string | null;
	document: string | null;
	qty: string;
}

/** A line of the folding table: a mark, how it got here, and how deep. */
export interface TreeNode {
	mark: string;
	level: number;
	/** of the step that leads here; null at the root */
	step: Step | null;
	qty: string | null;
	content: string | null;
	/** every run on the path from the root has one finished mark */
	exact: boolean;
	taken: boolean;
	children: TreeNode[];
	/** stands above in full already; not repeated */
	repeated: boolean;
	/** how the link that leads here is known: what went in and what came out; undefined at the root */
	known?: Evidence | null;
}

/**
 * Lays the steps out as a tree from the root. A mark reached on several ways stands under each; its own branch is
 * laid out once, the other times it is marked as repeated.
 */
export function treeOf(view: TraceView): TreeNode {
	const forward = view.direction === 'forward';
	const from = new Map<string, Step[]>();
	for (const s of view.steps)
		for (const side of new Set((forward ? s.inputs : s.outputs).map((x) => x.mark))) {
			const list = from.get(side);
			if (list) list.push(s);
			else from.set(side, [s]);
		}
	const laid = new Set<string>();
	const node = (
		mark: string,
		level: number,
		step: Step | null,
		side: StepSide | null,
		exact: boolean,
		known?: Evidence | null
	): TreeNode => {
		const repeated = laid.has(mark) && from.has(mark);
		laid.add(mark);
		const n: TreeNode = {
			mark,
			level,
			step,
			qty: side?.qty ?? null,
			content: side?.content ?? null,
			exact,
			repeated,
			children: [],
			taken: side?.role === 'detach',
			known
		};
		if (!repeated)
			for (const s of from.get(mark) ?? []) {
				const sides = forward ? s.outputs : s.inputs.filter((x) => x.role !== 'detach');
				const here = (forward ? s.inputs : s.outputs).filter((x) => x.mark === mark).map((x) => x.known);
				for (const x of sides)
					if (x.mark !== mark)
						n.children.push(node(x.mark, level + 1, s, x, exact && !s.pooled, weakest([...here, x.known])));
			}
		return n;
	};
	return node(view.root, 0, null, null, true);
}
