import Fraction from 'fraction.js';
import type { Db } from '../database/connect.ts';
import { traceBack } from '../../core/trace/back.ts';
import { traceForward } from '../../core/trace/forward.ts';
import { roundToTotal, show } from '../../core/quantity/quantity.ts';
import type { Flow, Gap, Where } from '../../core/trace/types.ts';
import type { Step, TraceMark, TraceView, ViewGap, WhereRow } from '../../core/trace/view.ts';
import { eventDocuments } from './answer.ts';
import { backSlice, findRoots, forwardSlice, plainTime, sliceTime, type MarkName, type Slice } from './slice.ts';

const GAP_WORDS: Record<Gap['kind'], string> = {
	'unmarked made': 'came out without a number; nothing proves where it went',
	'unmarked used': 'went in without a number; nothing proves where it came from',
	'adjusted in': 'appeared by adjustment or count; nothing proves where it came from',
	'no inputs': 'came out of a run in which nothing was used before'
};

/**
 * A trace as the screen and the CSV show it.
 * @param mark id of the lot or serial
 * @returns null when there is none
 */
export async function traceView(
	sql: Db,
	mark: string,
	direction: 'forward' | 'back',
	{ since, asOf }: { since?: string | null; asOf?: string | null } = {}
): Promise<TraceView | null> {
	const started = performance.now();
	const roots = await findRoots(sql, { mark });
	if (!roots) return null;
	const forward = direction === 'forward';
	const slice = await (forward ? forwardSlice : backSlice)(sql, roots, asOf ?? null);
	const { partners } = slice;
	const result = forward ? traceForward(slice, roots, since ? sliceTime(since) : undefined) : traceBack(slice, roots);
	const documents = await eventDocuments(sql, [...result.flows.map((f) => f.event), ...result.gaps.map((g) => g.event), ...('receipts' in result ? result.receipts.map((r) => r.event) : [])]); // prettier-ignore
	const marks = new Map<string, TraceMark>();
	const keep = (id: string): string => {
		if (!marks.has(id)) marks.set(id, markOf(slice.marks.get(id)!));
		return id;
	};
	roots.forEach(keep);
	const steps = forward ? stepsDown(slice, result.flows) : stepsUp(slice, result.flows);
	for (const s of steps) [...s.inputs, ...s.outputs].forEach((x) => keep(x.mark));
	const view: TraceView = {
		direction,
		root: roots[0],
		roots: roots.length,
		unit: slice.marks.get(roots[0])!.unit,
		marks: [],
		steps: await Promise.all(steps.map(async (s) => ({ ...s, document: documents.get(s.event)?.document ?? null }))),
		reached: [],
		where: [],
		balance: [],
		rootQty: null,
		suppliers: [],
		formerly: [],
		gaps: result.gaps.map((g): ViewGap => ({
			...{ kind: g.kind, what: GAP_WORDS[g.kind], mark: g.mark ? keep(g.mark) : null, qty: show(g.qty) },
			...{ run: g.run ? slice.runs.get(g.run)!.code : null, document: documents.get(g.event)?.document ?? null }
		})),
		pooled: [...new Set(steps.filter((s) => s.pooled).map((s) => s.run))].length,
		exact: [...new Set(steps.filter((s) => !s.pooled).map((s) => s.run))].length,
		levels: 0,
		ms: 0
	};
	if ('where' in result) {
		const decimals = Math.max(3, slice.marks.get(roots[0])!.decimals);
		view.rootQty = show(result.rootQty.toString(12).replace(/[()]/g, ''), decimals);
		const contents = roundToTotal(result.where.map((w) => w.content), decimals); // prettier-ignore
		view.where = await whereRows(sql, slice, result.where, contents, partners, keep);
		view.balance = balance(result.where, contents);
		view.accounted =
			result.rootQty.n === 0n
				? null
				: result.where.reduce((s, w) => s.add(w.content), new Fraction(0)).equals(result.rootQty);
		view.reached = result.marks.map((m) => ({ mark: keep(m.mark), since: plainTime(m.since), now: m.now }));
	} else {
		view.reached = result.marks.map((m) => ({
			mark: keep(m.mark),
			since: m.until ? plainTime(m.until) : '',
			now: true
		}));
		view.formerly = result.formerly.map(keep);
		view.suppliers = result.receipts.map((r) => ({
			...{ mark: keep(r.mark), qty: show(r.qty), partner: r.partner ? partners.get(r.partner)!.name : 'not named' },
			...{ document: documents.get(r.event)?.document ?? null, at: documents.get(r.event)!.at.slice(0, 10) }
		}));
	}
	view.marks = [...marks.values()];
	view.levels = depth(view);
	view.ms = Math.round(performance.now() - started);
	return view;
}

const markOf = (m: MarkName): TraceMark => ({
	...{
		id: m.id,
		kind: m.kind,
		number: m.number ?? `${m.item}, no number`,
		lot: m.lot,
		item: m.item,
		itemName: m.itemName
	},
	...{ unit: m.unit, expiresOn: m.expiresOn, status: m.status }
});

type Bare = Omit<Step, 'document'> & { event: string };
function collect(slice: Slice, flows: Flow[]): Bare[] {
	const byRun = new Map<string, Bare>();
	for (const f of flows) {
		const run = slice.runs.get(f.run)!;
		let s = byRun.get(f.run);
		if (!s)
			byRun.set(
				f.run,
				(s = {
					run: run.code,
					pooled: !run.unit,
					at: plainTime(f.at),
					event: f.event,
					inputs: [],
					outputs: [],
					unit: run.unit,
					open: false
				})
			);
		const side = f.role === 'make' ? s.outputs : s.inputs;
		const content = f.content ? show(f.content.toString(6).replace(/[()]/g, ''), 6) : null;
		const there = side.find((x) => x.mark === f.mark && x.role === f.role);
		if (there) {
			there.qty = show(new Fraction(there.qty.replaceAll(',', '')).add(f.qty).toString(12));
			there.content = f.content && there.content ? show(new Fraction(there.content.replaceAll(',', '')).add(f.content).toString(6).replace(/[()]/g, '')) : content; // prettier-ignore
		} else side.push({ mark: f.mark, role: f.role, qty: show(f.qty), content });
		s.event = f.event;
		s.at = plainTime(f.at);
	}
	return [...byRun.values()];
}
/** Forward: a unit that holds a root part is an output of its run though it was finished before the part came in. */
function stepsDown(slice: Slice, flows: Flow[]): Bare[] {
	const steps = collect(slice, flows);
	for (const s of steps) {
		if (s.unit && !s.outputs.length && slice.movements.some((m) => m.mark === s.unit && m.role === 'make'))
			s.outputs.push({ mark: s.unit, role: 'make', qty: '1', content: null });
		s.open = !s.outputs.length;
	}
	return steps;
}
function stepsUp(slice: Slice, flows: Flow[]): Bare[] {
	const steps = collect(slice, flows);
	for (const s of steps)
		if (s.unit && !s.outputs.length) s.outputs.push({ mark: s.unit, role: 'make', qty: '1', content: null });
	return steps;
}

async function whereRows(
	sql: Db,
	slice: Slice,
	where: Where[],
	contents: string[],
	partners: Map<string, { name: string }>,
	keep: (id: string) => string
): Promise<WhereRow[]> {
	const gone = where.filter((w) => w.mark && w.at && (w.state === 'shipped' || w.state === 'sent back'));
	const papers = await sql<{ mark: string; partner: string; document: string | null; at: string }[]>`
		SELECT DISTINCT ON (m.mark_id, e.partner_id) m.mark_id AS mark, e.partner_id AS partner, e.document, to_char(e.at, 'YYYY-MM-DD') AS at
		FROM effective_movement m JOIN event e ON e.id = m.event_id JOIN place p ON p.id = m.to_place AND p.code IN ('@customer', '@supplier')
		WHERE m.mark_id = ANY(${gone.map((w) => w.mark!)}::bigint[]) ORDER BY m.mark_id, e.partner_id, m.at DESC, m.id DESC`;
	const paper = new Map(papers.map((p) => [`${p.mark} ${p.partner}`, p]));
	return where.map((w, i): WhereRow => {
		const p = paper.get(`${w.mark} ${w.at}`);
		const place = w.at && (w.state === 'on hand' ? slice.places.get(w.at)!.code : partners.get(w.at)?.name);
		return {
			...{
				mark: w.mark ? keep(w.mark) : null,
				run: w.run ? slice.runs.get(w.run)!.code : null,
				state: w.state,
				at: place || null
			},
			...{
				document: p?.document ?? null,
				date: p?.at ?? null,
				qty: w.qty ? show(w.qty) : null,
				content: show(contents[i])
			}
		};
	});
}

function balance(where: Where[], contents: string[]): TraceView['balance'] {
	const sums = new Map<string, { content: Fraction; count: number }>();
	where.forEach((w, i) => {
		const s = sums.get(w.state) ?? { content: new Fraction(0), count: 0 };
		sums.set(w.state, { content: s.content.add(contents[i]), count: s.count + 1 });
	});
	return [...sums].map(([state, s]) => ({ state, content: show(s.content.toString(12)), count: s.count }));
}

function depth(view: TraceView): number {
	const next = new Map<string, string[]>();
	for (const s of view.steps) {
		const [from, to] = view.direction === 'forward' ? [s.inputs, s.outputs] : [s.outputs, s.inputs];
		for (const f of from) next.set(f.mark, [...(next.get(f.mark) ?? []), ...to.map((t) => t.mark)]);
	}
	const seen = new Set<string>([view.root]);
	let level = [view.root];
	let n = 0;
	while (level.length) {
		n++;
		const following: string[] = [];
		for (const t of level.flatMap((m) => next.get(m) ?? [])) {
			if (seen.has(t)) continue;
			seen.add(t);
			following.push(t);
		}
		level = following;
	}
	return n;
}
