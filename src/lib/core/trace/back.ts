import Fraction from 'fraction.js';
import TinyQueue from 'tinyqueue';
import { addTo } from '../group/group.ts';
import { flowOf, gapOf } from './flow.ts';
import type { Back, LedgerSlice, Moved } from './types.ts';

/** Time is the pair (at, movement id). */
interface Moment {
	at: string;
	id: bigint;
}
const NOW: Moment = { at: '9999', id: 0n };
const moment = (m: Moved): Moment => ({ at: m.at, id: BigInt(m.id) });
const later = (a: Moment, b: Moment) => a.at > b.at || (a.at === b.at && a.id > b.id);

/**
 * Traces back: which marks are in the roots, at which latest time each went in, and which receipts brought them.
 *
 * Marks are settled from the latest time to the earliest, so that each is read once, at its final time (the method
 * of Dijkstra, with time in place of distance; Wu et al., VLDB 2014, call it the latest-departure path).
 *
 * @param roots the mark, or a lot and the serials that belong to it
 * @param slice makes of every mark, uses and detaches of every run, receipts and adjustments of every mark, that
 *   could be on the way, up to the time asked for
 */
export function traceBack(slice: LedgerSlice, roots: string[]): Back {
	const makes = new Map<string, Moved[]>();
	const inputs = new Map<string, Moved[]>();
	const arrivals = new Map<string, Moved[]>();
	for (const m of slice.movements)
		if (m.role === 'make') addTo(makes, m.mark, m);
		else if (m.role) addTo(inputs, m.run!, m);
		else addTo(arrivals, m.mark, m);
	const unitRun = new Map([...slice.runs.values()].filter((r) => r.unit).map((r) => [r.unit!, r.id]));

	const latest = new Map<string, Moment>(roots.map((r) => [r, NOW]));
	const settled = new Set<string>();
	const out: Back = { marks: [], receipts: [], formerly: [], flows: [], gaps: [] };
	const formerly = new Set<string>();
	const seenFlow = new Set<string>();

	const queue = new TinyQueue(
		roots.map((mark) => ({ mark, t: NOW })),
		(a, b) => (later(a.t, b.t) ? -1 : later(b.t, a.t) ? 1 : 0)
	);
	const lead = (mark: string, t: Moment) => {
		const known = latest.get(mark);
		if (known && !later(t, known)) return;
		latest.set(mark, t);
		queue.push({ mark, t });
	};
	const flow = (m: Moved) => {
		if (seenFlow.has(m.id)) return;
		seenFlow.add(m.id);
		out.flows.push(flowOf(m));
		if (m.evidence === 'accepted') out.gaps.push(gapOf('not looked at', m));
		if (m.role === 'use' && slice.marks.get(m.mark)?.kind === 'unmarked') out.gaps.push(gapOf('unmarked used', m));
	};

	/** What a unit contains at a time, and what was taken out of it before. */
	const readUnit = (run: string, t: Moment) => {
		const held = new Map<string, { qty: Fraction; last: Moment; movements: Moved[] }>();
		for (const m of inputs.get(run) ?? []) {
			if (later(moment(m), t)) continue;
			const h = held.get(m.mark) ?? { qty: new Fraction(0), last: moment(m), movements: [] };
			h.qty = m.role === 'use' ? h.qty.add(m.qty) : h.qty.sub(m.qty);
			if (m.role === 'use') h.last = moment(m);
			h.movements.push(m);
			held.set(m.mark, h);
		}
		for (const [mark, h] of held) {
			h.movements.forEach(flow);
			if (h.qty.s > 0n && h.qty.n !== 0n) lead(mark, slice.marks.get(mark)?.kind === 'serial' ? t : h.last);
			else formerly.add(mark);
		}
		return held.size;
	};

	for (let next = queue.pop(); next; next = queue.pop()) {
		const { mark: at, t } = next;
		if (settled.has(at)) continue;
		settled.add(at);
		if (slice.marks.get(at)?.kind === 'unmarked') continue; // a gap: never passed through
		const own = unitRun.get(at);
		if (own) readUnit(own, t);
		for (const made of makes.get(at) ?? []) {
			if (later(moment(made), t)) continue;
			flow(made);
			let fed = false;
			for (const used of inputs.get(made.run!) ?? []) {
				if (used.role !== 'use' || !later(moment(made), moment(used))) continue;
				fed = true;
				if (made.run === own) continue;
				flow(used);
				lead(used.mark, moment(used));
			}
			if (!fed) out.gaps.push(gapOf('no inputs', made));
		}
		for (const m of arrivals.get(at) ?? []) {
			if (later(moment(m), t)) continue;
			const from = slice.places.get(m.from)?.code;
			if (from === '@supplier')
				out.receipts.push({
					mark: at,
					partner: m.partner,
					event: m.event,
					qty: m.qty,
					evidence: m.evidence ?? null
				});
			if (from === '@adjust') out.gaps.push(gapOf('adjusted in', m));
		}
	}
	const isRoot = new Set(roots);
	for (const mark of settled)
		if (!isRoot.has(mark) && slice.marks.get(mark)?.kind !== 'unmarked') {
			const t = latest.get(mark)!;
			out.marks.push({ mark, until: t === NOW ? null : t.at });
		}
	out.formerly = [...formerly].filter((m) => !settled.has(m));
	return out;
}
