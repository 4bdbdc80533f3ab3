import Fraction from 'fraction.js';
import type { LedgerSlice, Moved } from '../src/lib/core/trace/types.ts';

/*
 * What a stranger makes of the ledger's entries, with nothing else at hand: who has what, and what went into what. It
 * knows only what docs/ledger.md says of an entry.
 */

interface EventEntry {
	kind: string;
	event: string;
	at: string;
	key: string;
	undoes?: string;
	partner?: string;
	document?: string;
	job?: string;
	marks?: {
		mark: string;
		item: string;
		kind: 'lot' | 'serial' | 'unmarked';
		lot?: string;
		serial?: string;
		parent?: string;
	}[];
	runs?: { code: string; unit?: string; planned?: string }[];
	closings?: string[];
	movements?: {
		movement: string;
		mark: string;
		item: string;
		qty: string;
		from: string;
		to: string;
		run?: string;
		role?: Moved['role'];
		lot?: string;
		serial?: string;
	}[];
	changes?: { mark: string; field: string; new?: string }[];
}
interface RecordEntry {
	kind: 'record';
	of: string;
	row: string;
	state: Record<string, string | null> | null;
}

/** A lot or serial as the entries tell of it, with the number that it goes by now. */
export interface RebuiltMark {
	id: string;
	item: string;
	kind: 'lot' | 'serial' | 'unmarked';
	number: string | null;
	parent: string | null;
	status: string;
}
/** All that the entries tell. */
export interface Rebuilt {
	marks: Map<string, RebuiltMark>;
	/** "mark place" → how much, where it is not zero */
	balances: Map<string, string>;
	/** what a trace reads */
	slice: LedgerSlice & { movements: Moved[] };
}

/** Reads entries in their order. */
export function rebuild(entries: readonly string[]): Rebuilt {
	const marks = new Map<string, RebuiltMark>();
	const sums = new Map<string, Fraction>();
	const slice: Rebuilt['slice'] = { marks: new Map(), runs: new Map(), places: new Map(), movements: [] };
	const measures = new Map<string, { measure: string | null; measureUnit: string | null }>();
	const undone = new Set<string>();
	for (const text of entries) {
		const entry = JSON.parse(text) as EventEntry | RecordEntry;
		if (entry.kind === 'record') {
			const { of, state } = entry as RecordEntry;
			if (of === 'item' && state)
				measures.set(state.code!, { measure: state.content_qty, measureUnit: state.content_unit });
			continue;
		}
		const e = entry as EventEntry;
		for (const m of e.marks ?? [])
			marks.set(m.mark, {
				id: m.mark,
				item: m.item,
				kind: m.kind,
				number: m.serial ?? m.lot ?? null,
				parent: m.parent ?? null,
				status: 'released'
			});
		for (const c of e.changes ?? []) {
			const mark = marks.get(c.mark)!;
			if (c.field === 'lot_no' || c.field === 'serial_no') mark.number = c.new!;
			if (c.field === 'status') mark.status = c.new!;
			if (c.field === 'parent_id') mark.parent = c.new ?? null;
		}
		for (const r of e.runs ?? [])
			slice.runs.set(r.code, { id: r.code, unit: r.unit ?? null, planned: r.planned ?? null, closed: false });
		for (const code of e.closings ?? []) slice.runs.get(code)!.closed = true;
		if (e.undoes) undone.add(e.undoes).add(e.event);
		for (const m of e.movements ?? []) {
			for (const code of [m.from, m.to]) slice.places.set(code, { id: code, code, virtual: code.startsWith('@') });
			for (const [place, sign] of [
				[m.to, 1],
				[m.from, -1]
			] as const) {
				const key = `${m.mark} ${place}`;
				sums.set(key, (sums.get(key) ?? new Fraction(0)).add(new Fraction(m.qty).mul(sign)));
			}
			slice.movements.push({
				id: m.movement,
				at: e.at,
				mark: m.mark,
				qty: m.qty,
				from: m.from,
				to: m.to,
				run: m.run ?? null,
				role: m.role ?? null,
				partner: e.partner ?? null,
				job: e.job ?? null,
				event: e.event
			});
		}
	}
	for (const m of marks.values()) slice.marks.set(m.id, { id: m.id, kind: m.kind, ...measures.get(m.item) });
	slice.movements = slice.movements
		.filter((m) => !undone.has(m.event))
		.sort((a, b) => a.at.localeCompare(b.at) || Number(a.id) - Number(b.id));
	const balances = new Map([...sums].filter(([, q]) => q.compare(0) !== 0).map(([k, q]) => [k, q.toString(12)]));
	return { marks, balances, slice };
}
