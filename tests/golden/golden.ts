import { readFileSync } from 'node:fs';
import type { ItemInput } from '../../src/lib/server/setup/items.ts';
import type { LedgerSlice, Moved } from '../../src/lib/core/trace/types.ts';

export interface GoldenMovement {
	item: string;
	lot?: string;
	serial?: string;
	qty: number | string;
	from: string;
	to: string;
	run?: string;
	role?: 'use' | 'make' | 'detach';
}
export interface GoldenEvent {
	key: string;
	kind: string;
	at: string;
	partner?: string;
	document?: string;
	undoes?: string;
	runs?: { code: string; unit?: { item: string; serial: string }; planned?: number; closed?: boolean }[];
	movements: GoldenMovement[];
}
export interface Named {
	item: string;
	lot: string | null;
	serial: string | null;
}
export interface ForwardAnswer {
	root: Named;
	rootQty: string;
	marks: (Named & { since: string; now: boolean })[];
	where: (Partial<Named> & {
		run?: string;
		state: string;
		at?: string | null;
		qty?: string;
		content: string;
	})[];
}
export interface BackAnswer {
	root: Named;
	marks: Named[];
	suppliers: { partner: string; document: string }[];
}
export interface Golden {
	/** those that the first three speak of, where it names none */
	items?: ItemInput[];
	ledger: { events: GoldenEvent[] };
	forward: ForwardAnswer[];
	back: BackAnswer[];
}

export const readGolden = (n: number): Golden =>
	JSON.parse(readFileSync(new URL(`./ledger-${n}.json`, import.meta.url), 'utf8'));

export const markKey = (m: { item?: string; lot?: string | null; serial?: string | null }) =>
	m.serial ? `${m.item}#${m.serial}` : `${m.item}:${m.lot}`;

/** A slice whose movements are a list, with the lot of each serial. */
type Played = LedgerSlice & { movements: Moved[]; parents: Map<string, string> };
/** The events as the trace reads them: what was undone left out, sorted by time and booking order. */
export function sliceOf(events: GoldenEvent[]): Played {
	const slice: Played = {
		marks: new Map(),
		runs: new Map(),
		places: new Map(),
		movements: [],
		parents: new Map()
	};
	const undone = new Set(events.flatMap((e) => (e.undoes ? [e.undoes, e.key] : [])));
	let id = 0;
	for (const e of events) {
		for (const r of e.runs ?? [])
			slice.runs.set(r.code, {
				id: r.code,
				unit: r.unit ? markKey(r.unit) : null,
				planned: r.planned ? String(r.planned) : null
			});
		for (const m of e.movements) {
			const mark = markKey(m);
			slice.marks.set(mark, { id: mark, kind: m.serial ? 'serial' : 'lot' });
			if (m.serial && m.lot) slice.parents.set(mark, `${m.item}:${m.lot}`);
			for (const code of [m.from, m.to]) slice.places.set(code, { id: code, code, virtual: code.startsWith('@') });
			if (undone.has(e.key)) continue;
			const moved: Moved = {
				id: String(++id),
				at: e.at,
				mark,
				qty: String(m.qty),
				from: m.from,
				to: m.to,
				run: m.run ?? null,
				role: m.role ?? null,
				partner: e.partner ?? null,
				event: e.key
			};
			slice.movements.push(moved);
		}
	}
	slice.movements.sort((a, b) => a.at.localeCompare(b.at) || Number(a.id) - Number(b.id));
	return slice;
}

/** The mark, or a lot and the serials that belong to it. */
export function rootsOf(slice: ReturnType<typeof sliceOf>, root: Named): string[] {
	const key = markKey(root);
	const children = [...slice.parents].filter(([, lot]) => lot === key).map(([serial]) => serial);
	return slice.marks.has(key) ? [key, ...children] : children;
}

const near = (a: string, b: string) => {
	const n = (t: string) => {
		const [x, y = '1'] = t.split('/');
		return Number(x) / Number(y);
	};
	return Math.abs(n(a) - n(b)) < 1e-6;
};

/** What differs between an answer and the golden one, in words; empty when nothing does. */
export function differences(got: ForwardAnswer, want: ForwardAnswer): string[] {
	const out: string[] = [];
	if (!near(got.rootQty, want.rootQty)) out.push(`rootQty ${got.rootQty}, not ${want.rootQty}`);
	const marks = (a: ForwardAnswer) => a.marks.map((m) => `${markKey(m)} since ${m.since} now ${m.now}`).sort();
	out.push(...setDifference(marks(got), marks(want)));
	const row = (w: ForwardAnswer['where'][0]) => (w.run ? `run ${w.run}` : `${markKey(w)} ${w.state} ${w.at ?? ''}`);
	out.push(...setDifference(got.where.map(row).sort(), want.where.map(row).sort()));
	for (const w of want.where) {
		const g = got.where.find((x) => row(x) === row(w));
		if (!g) continue;
		if (!near(g.content, w.content)) out.push(`${row(w)}: content ${g.content}, not ${w.content}`);
		if (w.qty && !near(g.qty!, w.qty)) out.push(`${row(w)}: qty ${g.qty}, not ${w.qty}`);
	}
	return out;
}

export function backDifferences(got: BackAnswer, want: BackAnswer): string[] {
	const who = (s: { partner: string; document: string }) => `${s.partner} ${s.document}`;
	return [
		...setDifference(got.marks.map(markKey).sort(), want.marks.map(markKey).sort()),
		...setDifference([...new Set(got.suppliers.map(who))].sort(), want.suppliers.map(who).sort())
	];
}

const setDifference = (got: string[], want: string[]) => [
	...want.filter((x) => !got.includes(x)).map((x) => `missing ${x}`),
	...got.filter((x) => !want.includes(x)).map((x) => `too much ${x}`),
	...(got.length === want.length ? [] : [`${got.length} entries, not ${want.length}`])
];
