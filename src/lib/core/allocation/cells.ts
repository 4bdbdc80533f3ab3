import Fraction from 'fraction.js';
import { exact, isSome, less, sub, total, type Qty } from '../quantity/quantity.ts';
import { group } from '../group/group.ts';
import type { Day } from '../dates/dates.ts';
import type { Goes } from '../document/kinds.ts';
import type { Evidence } from '../ledger/evidence.ts';
import type { Facts } from '../facts/fact.ts';
import type { Cell, PickRow } from '../sheet/sheet.ts';
import { allocateFrom, PLAIN, type Candidate, type LeftOut, type Terms } from './allocate.ts';
import { layPromises, type Promised } from './promises.ts';

/** What is at one place and could go, with all that a cell shows of it. */
export interface Stock extends Candidate {
	kind: 'lot' | 'serial' | 'unmarked';
	lot: string | null;
	/** what is recorded of it, and of the lot that a serial belongs to */
	facts: Facts;
	lotFacts: Facts | null;
	/** what is promised of it to lines of the order that it is for */
	own?: readonly Promised[];
}
/** A pick made by hand. */
export interface Chosen {
	id: string;
	version: number;
	unit: string | null;
	mark: string;
	place: string;
	/** as typed */
	qty: string;
	/** where it goes to, where that was said */
	to?: string;
	/** of what comes back: what becomes of it, and what was found */
	goes?: Goes;
	found?: string;
	/** an expiry date typed for a lot or serial that has none */
	expiryTyped?: string;
	facts: Facts;
	evidence: Evidence;
	/** whoever fetched it said so */
	confirmed?: true;
	problem?: string;
}

/**
 * Fills cells with stock: what was chosen by hand stands, and the rest of each cell is suggested from what is left, dealt out
 * in the order of the cells. A number that was chosen is not suggested once more from the same bin: so much was said of it.
 * A choice of none leaves a number out; where all that would be suggested is left out so, nothing is.
 * @param wanted each cell with its need; a unit's cell, or one for the whole line
 * @param chosen picks by hand
 * @param how `suggests`: what may be suggested; the rest is only offered, for a person to say which one it is. `terms`: what
 *   is asked of what goes. `line`: the line that it is for: what is promised to it goes first, what is promised to another
 *   line of the order stays for that. `picked`: all that there is was picked before, and waits. `rest`: where something was chosen, is the
 *   rest suggested? Of what is used up in production so much goes in as somebody said, and no more
 */
export function fillCells(
	wanted: { unit: string | null; need: Qty }[],
	chosen: Chosen[],
	all: readonly Stock[],
	today: Day,
	{ suggests, terms: asked = PLAIN, line = '', picked = false, rest = true }: Filling = {}
): { cells: Cell[]; leftOut: LeftOut[] } {
	const { stock, mine } = forLine(all, line);
	const terms = mine.size ? { ...asked, mine } : asked;
	const byHand = new Set(chosen.map(at));
	// Of a hundred thousand pieces only those are looked for that somebody chose.
	const there = new Map(
		byHand.size
			? stock.flatMap((s) => {
					const key = at(s);
					return byHand.has(key) ? [[key, s] as const] : [];
				})
			: []
	);
	const taken = new Map<string, Fraction>();
	for (const c of chosen) if (!c.problem) taken.set(at(c), (taken.get(at(c)) ?? new Fraction(0)).add(c.qty));

	const byUnit = group(chosen, (c) => c.unit);
	const cells = wanted.map((w): Cell => {
		const mine = byUnit.get(w.unit) ?? [];
		const picks = mine.map((c): PickRow => {
			const s = there.get(at(c));
			return { ...show(c, s), findings: [] };
		});
		const sum = total(mine.filter((c) => !c.problem).map((c) => c.qty));
		return { ...w, picks, short: less(sum, w.need) ? sub(w.need, sum) : '0', offers: [] };
	});

	const left = taken.size
		? stock.map((s) => {
				const used = taken.get(at(s));
				return used ? { ...s, promised: exact(used.add(s.promised ?? 0)) } : s;
			})
		: stock;
	const may = suggests ? left.filter(suggests) : left;
	/** Does somebody want none of all that would be suggested? */
	const wantsNone = (cell: Cell): boolean => {
		const rows = byUnit.get(cell.unit) ?? [];
		if (!rows.length || rows.some((c) => c.problem || isSome(c.qty))) return false;
		const none = new Set(rows.map(at));
		return allocateFrom(cell.need, may, today, terms).picks.every((p) => none.has(at(p.of)));
	};
	const open = cells.filter((c) => less('0', c.short) && (rest ? !wantsNone(c) : !byUnit.has(c.unit)));
	const said = (cell: Cell) => new Set((byUnit.get(cell.unit) ?? []).map(at));
	const need = total(open.map((c) => c.short));
	const leftOut = deal(open, said, may, need, today, terms);
	if (picked) for (const cell of open) for (const p of cell.picks) p.confirmed = true;
	if (suggests)
		offer(
			open,
			left.filter((s) => !suggests(s)),
			need,
			today,
			terms
		);
	const numbers = new Set([...there.values()].map((s) => s.number + s.place));
	return {
		cells,
		leftOut: leftOut.flatMap(({ of: { mark, number, place, qty }, reason, message }): LeftOut[] =>
			numbers.has(number + place) ? [] : [{ mark, number, place, qty, reason, message }]
		)
	};
}
const at = ({ mark, place }: { mark: string; place: string }) => `${mark} ${place}`;

/**
 * Suggests stock to cells, in their order.
 * @param said what was chosen of each cell, which is not suggested to it again
 * @returns what of the stock does not go, and why
 */
function deal(
	cells: readonly Cell[],
	said: (cell: Cell) => ReadonlySet<string>,
	stock: readonly Stock[],
	need: Qty,
	today: Day,
	terms: Terms
) {
	const chosen = cells.map(said);
	const [alone] = chosen;
	// One cell is given from what it has not; of several each may have what another has not.
	const from = chosen.length === 1 && alone.size ? stock.filter((s) => !alone.has(at(s))) : stock;
	const others = chosen.length > 1 ? new Set(chosen.flatMap((c) => [...c])) : null;
	const over = others?.size ? total(stock.flatMap((s) => (others.has(at(s)) ? [s.qty] : []))) : '0';
	const { picks, leftOut } = allocateFrom(total([need, over]), from, today, terms);
	let first = 0;
	for (const [n, cell] of cells.entries()) {
		while (first < picks.length && picks[first].qty === '0') first++;
		for (let k = first; k < picks.length && less('0', cell.short); k++) {
			const p = picks[k];
			if (p.qty === '0' || chosen[n].has(at(p.of))) continue;
			const qty = less(cell.short, p.qty) ? cell.short : p.qty;
			const { mark, place } = p.of;
			const shown = show({ id: null, version: 0, mark, place, qty, facts: {}, evidence: 'accepted' }, p.of);
			cell.picks.push(Object.assign(shown, { why: p.why, findings: [] }));
			cell.short = sub(cell.short, qty);
			p.qty = sub(p.qty, qty);
		}
	}
	return leftOut;
}

interface Filling {
	suggests?: (s: Stock) => boolean;
	terms?: Terms;
	line?: string;
	picked?: boolean;
	rest?: boolean;
}

/** Stock as one line of its order may take it: what is promised to the line, and less of what is to another. */
function forLine(all: readonly Stock[], line: string): { stock: readonly Stock[]; mine: Map<string, Qty> } {
	const promises = new Map<string, readonly Promised[]>();
	for (const s of all) if (s.own) promises.set(s.mark, s.own);
	if (!promises.size) return { stock: all, mine: new Map() };
	const [others, mine] = [new Map<string, Promised[]>(), new Map<string, Qty>()];
	for (const [mark, list] of promises) {
		others.set(
			mark,
			list.filter((p) => p.line !== line && p.line !== '0')
		);
		const own = total(list.filter((p) => p.line === line || p.line === '0').map((p) => p.qty));
		if (less('0', own)) mine.set(mark, own);
	}
	return { stock: layPromises(all, others), mine };
}

/** Names to each open cell what is at hand for it, in the order in which it would be taken; takes nothing. */
function offer(cells: Cell[], stock: Stock[], need: Qty, today: Day, terms: Terms) {
	if (!stock.length) return;
	const picks = allocateFrom(need, stock, today, terms).picks.values();
	for (const cell of cells)
		while (less(String(cell.offers.length), cell.short)) {
			const next = picks.next();
			if (next.done) return;
			const { mark, place, kind, number } = next.value.of;
			cell.offers.push({ mark, place, kind, number });
		}
}

/** A pick as it is shown. Written out: ten thousand of them are made at once. */
function show(c: Omit<Chosen, 'unit' | 'id'> & { id: string | null }, s?: Stock): Omit<PickRow, 'findings'> {
	const row: Omit<PickRow, 'findings'> = {
		id: c.id,
		version: c.version,
		mark: c.mark,
		place: c.place,
		qty: c.qty,
		facts: c.facts,
		evidence: c.evidence,
		expiryTyped: c.expiryTyped ?? '',
		kind: s?.kind ?? 'lot',
		number: s?.number ?? '?',
		lot: s?.lot ?? null,
		expiresOn: s?.expiresOn ?? null
	};
	if (c.to) row.to = c.to;
	if (c.goes) row.goes = c.goes;
	if (c.found) row.found = c.found;
	if (c.confirmed) row.confirmed = c.confirmed;
	if (s?.cameBack) row.cameBack = true;
	return row;
}
