import fc from 'fast-check';
import Fraction from 'fraction.js';
import { DirectedGraph } from 'graphology';
import { bfsFromNode } from 'graphology-traversal';
import { describe, expect, it } from 'vitest';
import { traceBack } from './back.ts';
import { traceForward } from './forward.ts';
import type { LedgerSlice, Moved } from './types.ts';

/** What a random ledger is made of; the numbers are read against what there is at that moment. */
const step = fc.record({
	what: fc.constantFrom(
		'receive',
		'receive',
		'feed',
		'feed',
		'put out',
		'build',
		'build',
		'finish',
		'service',
		'give back',
		'ship',
		'move',
		'come back'
	),
	a: fc.nat(50),
	b: fc.nat(50),
	qty: fc.integer({ min: 1, max: 7 })
});
type Step = typeof step extends fc.Arbitrary<infer T> ? T : never;

interface Option {
	/** every lot comes out of one run only, and units are never opened */
	plain?: boolean;
}
/** A slice whose movements are a list. */
type Played = LedgerSlice & { movements: Moved[] };
/** Plays steps into a ledger in which nothing is used that is not there. */
function play(steps: Step[], { plain }: Option = {}): Played {
	const slice: Played = { marks: new Map(), runs: new Map(), places: new Map(), movements: [] };
	for (const code of ['A', 'B', '@supplier', '@customer', '@process', '@scrap'])
		slice.places.set(code, { id: code, code, virtual: code.startsWith('@') });
	const stock = new Map<string, number>();
	const inside = new Map<string, string>();
	const fed = new Set<string>();
	const finished = new Set<string>();
	let clock = 0;
	const move = (
		mark: string,
		qty: number,
		from: string,
		to: string,
		run: string | null = null,
		role: Moved['role'] = null
	) => {
		clock++;
		// Every third moment is shared by three movements: then the booking order decides.
		const at = `2026-01-01T00:${String(Math.floor(clock / 3)).padStart(4, '0')}Z`;
		slice.movements.push({
			id: String(clock),
			at,
			mark,
			qty: String(qty),
			from,
			to,
			run,
			role,
			partner: null,
			event: String(clock)
		});
		for (const [place, sign] of [
			[from, -1],
			[to, 1]
		] as const)
			if (!place.startsWith('@')) stock.set(`${mark} ${place}`, (stock.get(`${mark} ${place}`) ?? 0) + sign * qty);
	};
	const lot = (id: string) => void (slice.marks.has(id) || slice.marks.set(id, { id, kind: 'lot' }));
	const standing = () =>
		[...stock].filter(([, q]) => q > 0).map(([k, q]) => ({ mark: k.split(' ')[0], place: k.split(' ')[1], q }));
	const pick = <T>(list: T[], n: number): T | undefined => list[n % Math.max(1, list.length)];
	let n = 0;
	for (const s of steps) {
		const here = pick(standing(), s.a);
		const qty = here ? Math.min(here.q, s.qty) : 0;
		const isSerial = here && slice.marks.get(here.mark)!.kind === 'serial';
		if (s.what === 'receive') {
			const id = plain ? `L${n++}` : `L${s.a % 5}`;
			lot(id);
			move(id, s.qty, '@supplier', 'A');
		} else if (s.what === 'feed' && here) {
			const run = `R${s.b % 5}`;
			if (plain && [...slice.movements].some((m) => m.run === run && m.role === 'make')) continue;
			slice.runs.set(run, { id: run, unit: null });
			move(here.mark, qty, here.place, '@process', run, 'use');
			fed.add(run);
		} else if (s.what === 'put out' && fed.size) {
			const run = pick([...fed], s.a)!;
			const id = plain ? `M${n++}` : `M${s.b % 4}`;
			lot(id);
			move(id, s.qty, '@process', 'A', run, 'make');
		} else if (s.what === 'build' && here) {
			const unit = `S${s.b % 6}`;
			if (finished.has(unit) || inside.has(unit) || here.mark === unit) continue;
			slice.marks.set(unit, { id: unit, kind: 'serial' });
			slice.runs.set(`U${unit}`, { id: `U${unit}`, unit });
			move(here.mark, qty, here.place, '@process', `U${unit}`, 'use');
			if (isSerial) inside.set(here.mark, `U${unit}`);
		} else if (s.what === 'finish') {
			const open = [...slice.runs.values()].filter(
				(r) => r.unit && !finished.has(r.unit) && slice.movements.some((m) => m.run === r.id)
			);
			const run = pick(open, s.a);
			if (!run) continue;
			finished.add(run.unit!);
			move(run.unit!, 1, '@process', 'A', run.id, 'make');
		} else if (s.what === 'service' && !plain) {
			const opened = pick(
				[...finished].filter((u) => stock.get(`${u} A`) || stock.get(`${u} B`)),
				s.a
			);
			if (!opened) continue;
			const run = `U${opened}`;
			const held = new Map<string, number>();
			for (const m of slice.movements)
				if (m.run === run && m.role !== 'make')
					held.set(m.mark, (held.get(m.mark) ?? 0) + (m.role === 'use' ? 1 : -1) * Number(m.qty));
			const part = pick(
				[...held].filter(([, q]) => q > 0),
				s.b
			);
			if (part && s.qty < 5) {
				move(
					part[0],
					slice.marks.get(part[0])!.kind === 'serial' ? 1 : Math.min(part[1], s.qty),
					'@process',
					'B',
					run,
					'detach'
				);
				inside.delete(part[0]);
			} else if (here && here.mark !== opened) {
				move(here.mark, qty, here.place, '@process', run, 'use');
				if (isSerial) inside.set(here.mark, run);
			}
		} else if (s.what === 'give back' && !plain) {
			const held = new Map<string, number>();
			for (const m of slice.movements)
				if (m.run?.startsWith('R') && m.role !== 'make') {
					const key = `${m.run} ${m.mark}`;
					held.set(key, (held.get(key) ?? 0) + (m.role === 'use' ? 1 : -1) * Number(m.qty));
				}
			const part = pick(
				[...held].filter(([, q]) => q > 0),
				s.a
			);
			if (!part) continue;
			const [run, mark] = part[0].split(' ');
			move(mark, Math.min(part[1], s.qty), '@process', 'B', run, 'detach');
		} else if (s.what === 'ship' && here) move(here.mark, qty, here.place, '@customer');
		else if (s.what === 'move' && here) move(here.mark, qty, here.place, here.place === 'A' ? 'B' : 'A');
		else if (s.what === 'come back') {
			const out = new Map<string, number>();
			for (const m of slice.movements)
				for (const [p, q] of [
					[m.to, 1],
					[m.from, -1]
				] as const)
					if (p === '@customer') out.set(m.mark, (out.get(m.mark) ?? 0) + q * Number(m.qty));
			const back = pick(
				[...out].filter(([, q]) => q > 0),
				s.a
			);
			if (back) move(back[0], Math.min(back[1], s.qty), '@customer', 'B');
		}
	}
	return slice;
}
const ledger = (o?: Option) => fc.array(step, { minLength: 4, maxLength: 45 }).map((s) => play(s, o));
const rootOf = (slice: Played, n: number) => [...slice.marks.keys()][n % Math.max(1, slice.marks.size)];

/**
 * Reachability by its definition, asked anew for each mark and moment, without a replay: slow, and written apart from
 * the trace. Is the mark reached after the first i movements?
 */
function reachedAt(slice: Played, root: string, mark: string, i: number, depth = 0): boolean {
	if (depth > 60) return false;
	const past = slice.movements.slice(0, i);
	if (mark === root) return past.some((m) => m.mark === mark);
	const own = [...slice.runs.values()].find((r) => r.unit === mark);
	if (own && past.some((m) => m.mark === mark && m.role === 'make')) {
		const last = new Map<string, number>();
		const lots = new Map<string, { left: number; reached: boolean }>();
		past.forEach((m, k) => {
			if (m.run !== own.id || m.role === 'make') return;
			if (slice.marks.get(m.mark)!.kind === 'serial') last.set(m.mark, m.role === 'use' ? k : -1);
			else {
				const s = lots.get(m.mark) ?? { left: 0, reached: false };
				if (m.role === 'use') s.reached = (s.left > 0 && s.reached) || reachedAt(slice, root, m.mark, k, depth + 1);
				s.left += (m.role === 'use' ? 1 : -1) * Number(m.qty);
				lots.set(m.mark, s);
			}
		});
		if ([...lots.values()].some((s) => s.left > 0 && s.reached)) return true;
		if ([...last].some(([serial, k]) => k >= 0 && reachedAt(slice, root, serial, i, depth + 1))) return true;
	}
	return past.some(
		(make, j) =>
			make.mark === mark &&
			make.role === 'make' &&
			make.run !== own?.id &&
			past
				.slice(0, j)
				.some((use, k) => use.run === make.run && use.role === 'use' && reachedAt(slice, root, use.mark, k, depth + 1))
	);
}

describe('random ledgers', () => {
	it('what is reached, since when and whether still, is as the definition says', () => {
		fc.assert(
			fc.property(ledger(), fc.nat(), (slice, n) => {
				if (!slice.marks.size) return;
				const root = rootOf(slice, n);
				if (!slice.movements.some((m) => m.mark === root)) return;
				const trace = traceForward(slice, [root]);
				const all = slice.movements.length;
				const want = [...slice.marks.keys()].flatMap((mark) => {
					for (let i = 1; i <= all; i++)
						if (reachedAt(slice, root, mark, i))
							return [`${mark} ${slice.movements[i - 1].at} ${mark === root || reachedAt(slice, root, mark, all)}`];
					return [];
				});
				expect([...trace.marks].map((m) => `${m.mark} ${m.since} ${m.now}`).sort()).toEqual(want.sort());
			}),
			{ numRuns: 300 }
		);
	});

	it('the contents of everything add up to the root, exactly', () => {
		fc.assert(
			fc.property(ledger(), fc.nat(), (slice, n) => {
				if (!slice.marks.size) return;
				const trace = traceForward(slice, [rootOf(slice, n)]);
				const where = [...trace.where];
				const sum = where.reduce((s, w) => s.add(w.content), new Fraction(0));
				expect(sum.toFraction()).toBe(trace.rootQty.toFraction());
				expect(where.every((w) => w.content.s >= 0n)).toBe(true);
			}),
			{ numRuns: 600 }
		);
	});

	it('forward and back agree: what is in it now is what it went into', () => {
		fc.assert(
			fc.property(ledger(), fc.nat(), (slice, n) => {
				if (!slice.marks.size) return;
				const target = rootOf(slice, n);
				// A unit in work is in no mark's forward list: there its run stands as in process.
				if (!slice.movements.some((m) => m.mark === target)) return;
				const back = new Set(traceBack(slice, [target]).marks.map((m) => m.mark));
				for (const mark of slice.marks.keys()) {
					if (mark === target || !slice.movements.some((m) => m.mark === mark)) continue;
					const there = [...traceForward(slice, [mark]).marks].some((m) => m.mark === target && m.now);
					expect(back.has(mark), `${mark} in ${target}`).toBe(there);
				}
			}),
			{ numRuns: 300 }
		);
	});

	it('where times cannot matter, it is plain reachability in a graph', () => {
		fc.assert(
			fc.property(ledger({ plain: true }), fc.nat(), (slice, n) => {
				if (!slice.marks.size) return;
				const graph = new DirectedGraph();
				for (const m of slice.movements) {
					graph.mergeNode(m.mark);
					if (m.role === 'use') graph.mergeEdge(m.mark, m.run!);
					if (m.role === 'make') graph.mergeEdge(m.run!, m.mark);
				}
				const root = rootOf(slice, n);
				if (!graph.hasNode(root)) return;
				// An unfinished unit is no mark that exists yet.
				const made = new Set(slice.movements.filter((m) => m.role === 'make').map((m) => m.mark));
				const want: string[] = [];
				bfsFromNode(graph, root, (node) => {
					if (slice.marks.has(node) && (node === root || made.has(node))) want.push(node);
				});
				// A unit put out before its part went in is not reached by it: only complete orders of use and make count here.
				const trace = [...traceForward(slice, [root]).marks].map((m) => m.mark);
				expect(trace.every((m) => want.includes(m))).toBe(true);
				const late = slice.movements.some(
					(use) =>
						use.role === 'use' &&
						slice.movements.some(
							(make) => make.role === 'make' && make.run === use.run && Number(make.id) < Number(use.id)
						)
				);
				if (!late) expect([...trace].sort()).toEqual(want.sort());
			}),
			{ numRuns: 300 }
		);
	});

	it('a lot at many places and customers stands where plain sums say', () => {
		const places = Array.from({ length: 14 }, (_, i) => `P${i}`);
		const move = fc.record({ from: fc.nat(), to: fc.nat(), qty: fc.integer({ min: 1, max: 3 }) });
		fc.assert(
			fc.property(fc.array(move, { minLength: 20, maxLength: 80 }), (moves) => {
				const codes = [...places, '@supplier', '@customer'];
				const slice: Played = { marks: new Map(), runs: new Map(), places: new Map(), movements: [] };
				for (const code of codes) slice.places.set(code, { id: code, code, virtual: code.startsWith('@') });
				slice.marks.set('L', { id: 'L', kind: 'lot' });
				const stands = new Map<string, number>();
				const book = (qty: number, from: string, to: string, partner: string | null) => {
					const id = String(slice.movements.length + 1);
					const at = `2026-01-01T00:${id.padStart(4, '0')}Z`;
					const of = { mark: 'L', run: null, role: null, event: id };
					slice.movements.push({ id, at, qty: String(qty), from, to, partner, ...of });
					for (const [place, sign] of [
						[from, -1],
						[to, 1]
					] as const) {
						const key = place === '@customer' ? `customer ${partner}` : place;
						if (place !== '@supplier') stands.set(key, (stands.get(key) ?? 0) + sign * qty);
					}
				};
				book(8000, '@supplier', 'P0', 'S');
				for (const { from, to, qty } of moves) {
					const at = [...stands].filter(([place, q]) => q && place.startsWith('P'));
					if (!at.length) break;
					const [place, q] = at[from % at.length];
					const customer = to % 3 ? null : `C${to % 12}`;
					book(Math.min(qty * 100, q), place, customer ? '@customer' : places[to % places.length], customer);
				}
				const trace = traceForward(slice, ['L']);
				const got = [...trace.where].map(
					(w) => `${w.state === 'on hand' ? '' : 'customer '}${w.at} ${w.qty} ${w.content}`
				);
				const want = [...stands].filter(([, q]) => q).map(([place, q]) => `${place} ${q} ${q}`);
				expect(got.sort()).toEqual(want.sort());
			}),
			{ numRuns: 200 }
		);
	});
});
