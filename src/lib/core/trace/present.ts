import Fraction from 'fraction.js';
import { group } from '../group/group.ts';
import { countKnown, weakest, type Evidence, type Known } from '../ledger/evidence.ts';
import { part, plus, quantityReader, ZERO } from '../quantity/fractions.ts';
import { exact, roundToTotal, shareDecimals, type Qty } from '../quantity/quantity.ts';
import type { Back, Flow, Forward, Gap, LedgerSlice, MarkInfo, RunInfo, Where } from './types.ts';
import { byState } from './fold.ts';
import type { Step, StepSide, TraceMark, TraceView, ViewGap, WhereRow } from './view.ts';

/** What a mark is called, and all that an answer says of it. */
export interface MarkName extends MarkInfo {
	number: string | null;
	lot: string | null;
	item: string;
	itemName: string;
	unit: string;
	decimals: number;
	expiresOn: string | null;
	status: string;
}
/** A slice of the ledger with the names of what is in it. */
export interface NamedSlice extends LedgerSlice {
	marks: Map<string, MarkName>;
	runs: Map<string, RunInfo & { code: string }>;
	/** partners of the events in the slice */
	partners: Map<string, { code: string; name: string }>;
	/** jobs of the events in the slice, with the customer of each */
	jobs: Map<string, { code: string; name: string; partner: string | null; partnerCode: string | null }>;
}
/** What the papers of a trace say: of each event its document and time; of what is gone, by "mark holder", the last. */
export interface Papers {
	events: ReadonlyMap<string, { document: string | null; at: string }>;
	gone: ReadonlyMap<string, { document: string | null; at: string }>;
	/** a slice's time as people read it */
	time: (at: string) => string;
}

const GAP_WORDS: Record<Gap['kind'], string> = {
	'unmarked made': 'came out without a number; nothing proves where it went',
	'unmarked used': 'went in without a number; nothing proves where it came from',
	'adjusted in': 'appeared by adjustment or count; nothing proves where it came from',
	'no inputs': 'came out of a run in which nothing was used before',
	'not looked at': 'was booked as suggested; nobody looked at it'
};

/** Where a row of a trace is: a place, a partner or a job; null where nobody is named. */
export function holderOf(slice: NamedSlice, w: Pick<Where, 'state' | 'at'>): { code: string; name: string } | null {
	if (!w.at) return null;
	if (w.state === 'on hand') {
		const { code } = slice.places.get(w.at)!;
		return { code, name: code };
	}
	const job = w.state === 'issued' ? slice.jobs.get(w.at) : undefined;
	if (job) return { code: job.code, name: job.partner ? `${job.name}, for ${job.partner}` : job.name };
	return slice.partners.get(w.at) ?? null;
}

/** Which customer has a row of a trace: whom it was shipped to, or whose job it was issued to; null where nobody is named. */
export function customerOf(slice: NamedSlice, w: Pick<Where, 'state' | 'at'>): { code: string; name: string } | null {
	if (!w.at) return null;
	if (w.state === 'shipped') return slice.partners.get(w.at) ?? null;
	const job = w.state === 'issued' ? slice.jobs.get(w.at) : undefined;
	return job?.partner && job.partnerCode ? { code: job.partnerCode, name: job.partner } : null;
}

/**
 * A trace as people read it. Shares are rounded to the root's own decimals so that what is shown adds up to the whole
 * that is shown: of where it is now, and of what went in and came out of each run.
 */
export function presentTrace(
	slice: NamedSlice,
	roots: readonly string[],
	result: Forward | Back,
	papers: Papers
): TraceView {
	const forward = 'where' in result;
	const root = slice.marks.get(roots[0])!;
	const marks = new Map<string, TraceMark>();
	const keep = (id: string): string => {
		if (!marks.has(id)) marks.set(id, markOf(slice.marks.get(id)!));
		return id;
	};
	roots.forEach(keep);
	const steps = stepsOf(slice, result.flows, 'rootQty' in result ? result.rootQty : null, root.decimals, papers);
	for (const s of steps) for (const side of [s.inputs, s.outputs]) for (const x of side) keep(x.mark);
	const runs = (pooled: boolean) => new Set(steps.filter((s) => s.pooled === pooled).map((s) => s.run)).size;
	const view: TraceView = {
		direction: forward ? 'forward' : 'back',
		root: roots[0],
		roots: roots.length,
		unit: root.unit,
		marks: [],
		steps,
		reached: [],
		where: [],
		balance: [],
		rootQty: null,
		shares: false,
		suppliers: [],
		formerly: [],
		known: knownOf(slice, result),
		gaps: result.gaps.map((g): ViewGap => ({
			kind: g.kind,
			what: GAP_WORDS[g.kind],
			mark: g.mark ? keep(g.mark) : null,
			qty: g.qty,
			run: g.run ? slice.runs.get(g.run)!.code : null,
			document: papers.events.get(g.event)?.document ?? null
		})),
		pooled: runs(true),
		exact: runs(false),
		levels: 0
	};
	if (forward) presentWhere(view, slice, result, papers, keep);
	else presentSources(view, slice, result, papers, keep);
	view.marks = [...marks.values()];
	view.levels = depth(view);
	return view;
}

/** How the links on the way are known: what went into runs and came out, what came from suppliers, what went to somebody. */
export function knownOf(slice: LedgerSlice, result: Forward | Back): Known {
	if ('known' in result) return result.known;
	const ways = result.flows.filter((f) => slice.marks.get(f.mark)?.kind !== 'unmarked');
	return countKnown([...ways, ...result.receipts].map((link) => link.evidence));
}

function presentWhere(
	view: TraceView,
	slice: NamedSlice,
	result: Forward,
	papers: Papers,
	keep: (id: string) => string
) {
	const { decimals } = slice.marks.get(view.root)!;
	const where = [...result.where];
	const shares = where.map((w) => w.content);
	const fine = shareDecimals(shares, decimals);
	const contents = roundToTotal(shares, fine);
	view.shares = fine > decimals;
	view.rootQty = exact(result.rootQty.round(decimals));
	view.where = where.map((w, i): WhereRow => {
		const paper = w.mark && w.state !== 'on hand' ? papers.gone.get(`${w.mark} ${w.at}`) : undefined;
		return {
			mark: w.mark ? keep(w.mark) : null,
			run: w.run ? slice.runs.get(w.run)!.code : null,
			state: w.state,
			at: holderOf(slice, w)?.name ?? null,
			customer: customerOf(slice, w)?.name ?? null,
			document: paper?.document ?? null,
			date: paper?.at ?? null,
			qty: w.qty,
			content: contents[i],
			part: partOf(w.content, result.rootQty),
			known: w.evidence ?? null
		};
	});
	const sums = new Map<string, { content: Fraction; count: number }>();
	const read = quantityReader();
	where.forEach((w, i) => {
		const s = sums.get(w.state) ?? { content: ZERO, count: 0 };
		sums.set(w.state, { content: plus(s.content, read(contents[i])), count: s.count + 1 });
	});
	view.balance = [...sums].map(([state, s]) => ({ state, content: exact(s.content), count: s.count })).sort(byState);
	const whole = where.reduce((s, w) => plus(s, w.content), ZERO);
	view.accounted = result.rootQty.n === 0n ? null : whole.equals(result.rootQty);
	for (const m of result.marks) view.reached.push({ mark: keep(m.mark), since: papers.time(m.since), now: m.now });
}

function presentSources(
	view: TraceView,
	slice: NamedSlice,
	result: Back,
	papers: Papers,
	keep: (id: string) => string
) {
	view.reached = result.marks.map((m) => ({
		mark: keep(m.mark),
		since: m.until ? papers.time(m.until) : '',
		now: true
	}));
	view.formerly = result.formerly.map(keep);
	view.suppliers = result.receipts.map((r) => ({
		mark: keep(r.mark),
		qty: r.qty,
		partner: r.partner ? slice.partners.get(r.partner)!.name : 'not named',
		document: papers.events.get(r.event)?.document ?? null,
		known: r.evidence,
		at: (papers.events.get(r.event)?.at ?? '').slice(0, 10)
	}));
}

const markOf = (m: MarkName): TraceMark => ({
	id: m.id,
	kind: m.kind,
	number: m.number ?? `${m.item}, no number`,
	lot: m.lot,
	item: m.item,
	itemName: m.itemName,
	unit: m.unit,
	expiresOn: m.expiresOn,
	status: m.status
});

/** One side of a run while it is added up. */
interface Sum {
	mark: string;
	role: StepSide['role'];
	qty: Fraction;
	content: Fraction | null;
	known: (Evidence | null)[];
}
/** The runs on the way, each with what of the trace went in and came out, in the order in which they were reached. */
function stepsOf(
	slice: NamedSlice,
	flows: Iterable<Flow>,
	whole: Fraction | null,
	decimals: number,
	papers: Papers
): Step[] {
	const forward = whole !== null;
	const made = new Set<string>();
	const read = quantityReader();
	if (forward) for (const m of slice.movements) if (m.role === 'make') made.add(m.mark);
	return [...group(flows, (f) => f.run)].map(([id, list]): Step => {
		const run = slice.runs.get(id)!;
		const last = list[list.length - 1];
		const side = (makes: boolean) => {
			const sums = new Map<string, Sum>();
			for (const f of list) {
				if ((f.role === 'make') !== makes) continue;
				const key = `${f.mark} ${f.role}`;
				const there = sums.get(key);
				if (!there)
					sums.set(key, {
						mark: f.mark,
						role: f.role,
						qty: read(f.qty),
						content: f.content ?? null,
						known: [f.evidence]
					});
				else {
					there.known.push(f.evidence);
					there.qty = plus(there.qty, read(f.qty));
					there.content = f.content ? plus(f.content, there.content ?? ZERO) : there.content;
				}
			}
			return shownSide([...sums.values()], decimals, whole);
		};
		const outputs = side(true);
		// A unit that holds a root part is an output of its run though it was finished before the part came in.
		if (run.unit && !outputs.length && (!forward || made.has(run.unit)))
			outputs.push({ mark: run.unit, role: 'make', qty: '1', content: null, part: 0, known: 'scanned' });
		return {
			run: run.code,
			pooled: !run.unit,
			unit: run.unit,
			at: papers.time(last.at),
			document: papers.events.get(last.event)?.document ?? null,
			open: forward && !outputs.length,
			inputs: side(false),
			outputs
		};
	});
}
const ONE = new Fraction(1);
/** A content as a part of the whole, for a picture: 0 to 1. */
const partOf = (content: Fraction, whole: Fraction) => (whole.n === 0n ? 0 : part(content, ONE, whole).valueOf());

/** Contents of one side, rounded so that they add up to its rounded sum. */
function shownSide(sums: readonly Sum[], decimals: number, whole: Fraction | null): StepSide[] {
	const known = sums.filter((s) => s.content);
	const rounded = new Map<Sum, Qty>();
	const shares = known.map((s) => s.content!);
	roundToTotal(shares, shareDecimals(shares, decimals)).forEach((q, i) => rounded.set(known[i], q));
	return sums.map((s) => ({
		mark: s.mark,
		role: s.role,
		qty: exact(s.qty),
		content: s.content ? rounded.get(s)! : null,
		part: s.content && whole ? partOf(s.content, whole) : 0,
		known: weakest(s.known)
	}));
}

/** How many generations there are, the root's included. */
function depth(view: TraceView): number {
	const next = new Map<string, string[]>();
	for (const s of view.steps) {
		const [from, to] = view.direction === 'forward' ? [s.inputs, s.outputs] : [s.outputs, s.inputs];
		for (const f of from) {
			const list = next.get(f.mark);
			if (list) for (const t of to) list.push(t.mark);
			else
				next.set(
					f.mark,
					to.map((t) => t.mark)
				);
		}
	}
	const seen = new Set<string>([view.root]);
	let level = [view.root];
	let levels = 0;
	for (; level.length; levels++) {
		const following: string[] = [];
		for (const mark of level)
			for (const t of next.get(mark) ?? []) {
				if (seen.has(t)) continue;
				seen.add(t);
				following.push(t);
			}
		level = following;
	}
	return levels;
}
