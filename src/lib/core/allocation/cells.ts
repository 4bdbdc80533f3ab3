import Fraction from 'fraction.js';
import { exact, less, sub, total, type Qty } from '../quantity/quantity.ts';
import { parseDay, type Day } from '../dates/dates.ts';
import type { How } from '../marking/rule.ts';
import { checkFacts, type AskedFact, type Facts } from '../facts/fact.ts';
import type { Cell, Finding, PickRow } from '../sheet/sheet.ts';
import { allocate, stopReason, type Candidate, type LeftOut } from './allocate.ts';

export interface Stock extends Candidate {
	kind: 'lot' | 'serial' | 'unmarked';
	lot: string | null;
	/** what is recorded of it, and of the lot that a serial belongs to */
	facts: Facts;
	lotFacts: Facts | null;
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
	/** an expiry date typed for a lot or serial that has none */
	expiryTyped?: string;
	facts: Facts;
	problem?: string;
}

/**
 * Fills cells with stock: what was chosen by hand stands, the other cells get a suggestion from what is left, first
 * expired first, dealt out in the order of the cells.
 * @param wanted each cell with its need; a unit's cell, or one for the whole line
 * @param chosen picks by hand; a cell that has any gets no suggestion
 */
export function fillCells(
	wanted: { unit: string | null; need: Qty }[],
	chosen: Chosen[],
	stock: Stock[],
	today: Day
): { cells: Cell[]; leftOut: LeftOut[] } {
	const at = (mark: string, place: string) => `${mark} ${place}`;
	const there = new Map(stock.map((s) => [at(s.mark, s.place), s]));
	const taken = new Map<string, Fraction>();
	for (const c of chosen)
		if (!c.problem) taken.set(at(c.mark, c.place), (taken.get(at(c.mark, c.place)) ?? new Fraction(0)).add(c.qty));

	const cells = wanted.map((w): Cell => {
		const mine = chosen.filter((c) => c.unit === w.unit);
		const picks = mine.map((c): PickRow => {
			const s = there.get(at(c.mark, c.place));
			return { ...show(c, s), findings: check(c, s, taken.get(at(c.mark, c.place)), today) };
		});
		const sum = total(mine.filter((c) => !c.problem).map((c) => c.qty));
		return { ...w, picks, short: less(sum, w.need) ? sub(w.need, sum) : '0' };
	});

	const open = cells.filter((c) => !chosen.some((x) => x.unit === c.unit) && less('0', c.need));
	const left = stock.map((s) => {
		const used = taken.get(at(s.mark, s.place));
		return used ? { ...s, promised: exact(used.add(s.promised ?? 0)) } : s;
	});
	const { picks, leftOut } = allocate(total(open.map((c) => c.need)), left, today);
	let n = 0;
	for (const cell of open)
		while (less('0', cell.short) && n < picks.length) {
			const p = picks[n];
			const q = less(cell.short, p.qty) ? cell.short : p.qty;
			const s = there.get(at(p.mark, p.place))!;
			cell.picks.push({
				...show({ id: null, version: 0, mark: p.mark, place: p.place, qty: q, facts: {} }, s),
				findings: []
			});
			cell.short = sub(cell.short, q);
			p.qty = sub(p.qty, q);
			if (p.qty === '0') n++;
		}
	const byHand = new Set(chosen.map((c) => at(c.mark, c.place)));
	const numbers = new Set(stock.filter((s) => byHand.has(at(s.mark, s.place))).map((s) => s.number + s.place));
	return { cells, leftOut: leftOut.filter((l) => !numbers.has(l.number + l.place)) };
}

const show = (c: Omit<Chosen, 'unit' | 'id'> & { id: string | null }, s?: Stock) => ({
	...{
		id: c.id,
		version: c.version,
		mark: c.mark,
		place: c.place,
		qty: c.qty,
		facts: c.facts,
		expiryTyped: c.expiryTyped ?? ''
	},
	...{
		kind: s?.kind ?? ('lot' as const),
		number: s?.number ?? '?',
		lot: s?.lot ?? null,
		expiresOn: s?.expiresOn ?? null
	}
});

function check(c: Chosen, s: Stock | undefined, asked: Fraction | undefined, today: Day): Finding[] {
	if (c.problem) return [{ level: 'stop', message: c.problem }];
	if (!s)
		return [{ level: 'stop', message: `is not at ${c.place} any more. Take it out and choose another.`, mark: c.mark }];
	const reason = stopReason(s, today);
	const found: Finding[] = [];
	if (reason)
		found.push(
			reason.startsWith('expired')
				? { level: 'reason', message: `${reason}: say why it goes, or take another.`, mark: c.mark }
				: { level: 'stop', message: `is ${reason}. Take another, or have it released.`, mark: c.mark }
		);
	if (asked && asked.compare(s.qty) > 0)
		found.push({
			level: 'stop',
			message: `${s.qty} are at ${c.place}; ${exact(asked)} are taken here. Take less.`,
			mark: c.mark
		});
	else if (asked && asked.add(s.promised ?? 0).compare(s.qty) > 0)
		found.push({ level: 'note', message: `another open sheet holds ${s.promised} of it.`, mark: c.mark });
	return found;
}

/** Adds what is wrong with the facts that are asked of what is taken; what is recorded already is not asked again. */
export function askFacts(cells: Cell[], asked: readonly AskedFact[], stock: readonly Stock[]): void {
	if (!asked.length) return;
	const known = new Map(stock.map((s) => [s.mark, s]));
	for (const pick of cells.flatMap((c) => c.picks)) {
		const s = known.get(pick.mark);
		if (!s || s.kind === 'unmarked' || pick.qty === '0') continue;
		const of = (f: AskedFact) => (f.per === 'lot' ? (s.lotFacts ?? s.facts) : s.facts)[f.code];
		const recorded = Object.fromEntries(asked.flatMap((f) => (of(f) ? [[f.code, of(f)]] : [])));
		const { values, findings } = checkFacts(asked, pick.facts, recorded);
		pick.facts = { ...pick.facts, ...values };
		pick.findings.push(...findings);
	}
}

/** Adds what is wrong with the expiry dates that a step asks of what is taken; one that is recorded is not asked again. */
export function askExpiry(cells: Cell[], how: How): void {
	if (how === 'not asked') return;
	for (const pick of cells.flatMap((c) => c.picks)) {
		if (pick.kind === 'unmarked' || pick.expiresOn || pick.qty === '0') continue;
		const read = pick.expiryTyped ? parseDay(pick.expiryTyped) : null;
		if (read && 'problem' in read) pick.findings.push({ level: 'stop', message: `expiry: ${read.problem}` });
		else if (read) pick.expiryTyped = read.day;
		else if (how === 'required') pick.findings.push({ level: 'stop', open: true, message: 'has no expiry date. Type it from the label.' }); // prettier-ignore
		else pick.findings.push({ level: 'reason', open: true, message: 'has no expiry date. Type it, or say why there is none.' }); // prettier-ignore
	}
}
