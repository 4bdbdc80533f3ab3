import { grouped } from '../quantity/sign.ts';
import type { TraceView } from './view.ts';

/** The size of the picture, in its own units. */
export const WIDTH = 900;
const HEIGHT = 250;
/** A bar of the picture: a mark at one stage. */
export interface Bar {
	id: string;
	label: string;
	count: number;
	/** where it stands: its column, and its left edge */
	col: number;
	x: number;
	/** what finds its numbers in the table; empty of what is folded */
	find: string;
	/** how many bars are folded into it */
	folds: number;
	value: number;
	tone: 'ink' | 'gone' | 'here' | 'lost';
	y: number;
	h: number;
}
interface Ribbon {
	from: string;
	to: string;
	value: number;
	tone: Bar['tone'];
}
/** The picture of a forward trace: bars in columns, ribbons between them, a heading over each column. */
export interface Stages {
	list: Bar[];
	paths: { d: string; tone: Bar['tone'] }[];
	heads: { x: number; text: string }[];
	height: number;
}
/** The most bars of one column at first: smaller ones fold into one. */
export const MOST_BARS = 7;

/**
 * Lays a forward trace out: columns from the root to where it is now, heights are contents. Each ribbon is looked at a
 * fixed number of times, whatever the number of bars.
 * @param most how many bars a column shows before the smaller ones fold into one
 */
export function layStages(view: TraceView, most: (col: number) => number = () => MOST_BARS): Stages {
	const marks = new Map(view.marks.map((m) => [m.id, m]));
	// Level of each mark: the longest way from the root, so that ribbons go forward.
	const level = new Map<string, number>([[view.root, 0]]);
	for (let round = 0, moved = true; moved && round < 30; round++) {
		moved = false;
		for (const s of view.steps) {
			const at = Math.max(-1, ...s.inputs.map((i) => level.get(i.mark) ?? -1));
			if (at < 0) continue;
			for (const o of s.outputs)
				if ((level.get(o.mark) ?? -1) < at + 1 && !s.inputs.some((i) => i.mark === o.mark)) {
					level.set(o.mark, at + 1);
					moved = true;
				}
		}
	}
	const levels = [...level.values()].reduce((most, l) => Math.max(most, l), 0);
	// Each is asked for again and again: its name is put together once.
	const names = new Map<string, string>();
	const name = (id: string) => {
		let text = names.get(id);
		if (text === undefined) {
			const m = marks.get(id)!;
			names.set(id, (text = m.kind === 'serial' ? `${level.get(id)} ${m.item}` : id));
		}
		return text;
	};
	const from = new Map<string, Map<string, Ribbon>>();
	const ribbons: Ribbon[] = [];
	const link = (of: string, to: string, value: number, tone: Ribbon['tone']) => {
		if (!(value > 0) || of === to) return;
		let there = from.get(of);
		if (!there) from.set(of, (there = new Map()));
		let r = there.get(to);
		if (!r) {
			there.set(to, (r = { from: of, to, value: 0, tone }));
			ribbons.push(r);
		}
		r.value += value;
	};
	for (const s of view.steps) {
		const used = s.inputs.filter((i) => i.role === 'use' && i.part > 0);
		const sum = used.reduce((n, i) => n + i.part, 0);
		for (const i of used)
			for (const o of s.outputs) {
				const part = s.pooled ? o.part : sum / Math.max(1, s.outputs.length);
				link(name(i.mark), name(o.mark), (part * i.part) / (sum || 1), 'ink');
			}
	}
	const bars = new Map<string, Bar>();
	const bar = (id: string, label: string, find: string, col: number, tone: Bar['tone']) => {
		const b = bars.get(id) ?? { id, label, find, count: 0, col, x: 0, folds: 0, value: 0, tone, y: 0, h: 0 };
		bars.set(id, b);
		return b;
	};
	for (const [id, l] of level) {
		const m = marks.get(id)!;
		const many = m.kind === 'serial' && id !== view.root;
		const b = bar(name(id), many ? m.itemName : m.number, many ? m.item : m.number, l, 'ink');
		b.count++;
	}
	const byRun = new Map(view.steps.map((s) => [s.run, s]));
	for (const w of view.where) {
		const tone =
			w.state === 'shipped' || w.state === 'issued'
				? 'gone'
				: w.state === 'on hand' || w.state === 'in process'
					? 'here'
					: 'lost';
		const label =
			w.state === 'in process'
				? `in process, ${w.run}`
				: w.state === 'shipped' || w.state === 'issued' || w.state === 'on hand'
					? (w.at ?? 'not named')
					: w.state;
		const find = w.state === 'in process' ? (w.run ?? '') : (w.at ?? w.state);
		const end = bar(`end ${tone} ${label}`, label, find, levels + 1, tone);
		end.count++;
		const first = w.run ? byRun.get(w.run)?.inputs[0] : undefined;
		const source = w.mark ? name(w.mark) : first && name(first.mark);
		if (source && bars.has(source)) link(source, end.id, w.part, tone);
	}
	// Small bars of a crowded column fold into one.
	const into = new Map<string, number>();
	const outOf = new Map<string, number>();
	for (const r of ribbons) {
		into.set(r.to, (into.get(r.to) ?? 0) + r.value);
		outOf.set(r.from, (outOf.get(r.from) ?? 0) + r.value);
	}
	for (const b of bars.values())
		b.value = b.id === name(view.root) ? 1 : Math.max(into.get(b.id) ?? 0, b.col > levels ? 0 : (outOf.get(b.id) ?? 0));
	let list = [...bars.values()].filter((b) => b.value > 0);
	for (let col = 1; col <= levels + 1; col++) {
		const mine = list.filter((b) => b.col === col).sort((a, b) => b.value - a.value);
		if (mine.length <= most(col)) continue;
		for (const tone of ['ink', 'gone', 'here', 'lost'] as const) {
			const small = mine.slice(most(col) - 1).filter((b) => b.tone === tone);
			if (small.length < 2) continue;
			const fold: Bar = {
				id: `fold ${col} ${tone}`,
				label: `${grouped(small.length)} more`,
				find: '',
				count: small.reduce((n, b) => n + b.count, 0),
				col,
				x: 0,
				folds: small.length,
				value: small.reduce((n, b) => n + b.value, 0),
				tone,
				y: 0,
				h: 0
			};
			const gone = new Set(small.map((b) => b.id));
			for (const r of ribbons) {
				if (gone.has(r.from)) r.from = fold.id;
				if (gone.has(r.to)) r.to = fold.id;
			}
			list = [...list.filter((b) => !gone.has(b.id)), fold];
		}
	}
	const crowd = Math.max(...Array.from({ length: levels + 2 }, (_, c) => list.filter((b) => b.col === c).length));
	// Columns that show more grow downwards: how high a share is drawn stays.
	const scale = HEIGHT - 30 - Math.min(crowd, MOST_BARS + 1) * 12;
	const step = (WIDTH - 190) / (levels + 1);
	const drawn = new Map(list.map((b) => [b.id, b]));
	const bands = together(ribbons.filter((r) => drawn.has(r.from) && drawn.has(r.to)));
	const sources = new Map<string, Ribbon[]>();
	for (const r of bands) {
		const known = sources.get(r.to);
		if (known) known.push(r);
		else sources.set(r.to, [r]);
	}
	const x = (c: number) => 8 + c * step;
	// Each bar near what it comes from: the mean height of its sources.
	const pull = (b: Bar) => {
		let [sum, weight] = [0, 0];
		for (const r of sources.get(b.id) ?? []) {
			const from = drawn.get(r.from)!;
			sum += (from.y + from.h / 2) * r.value;
			weight += r.value;
		}
		return sum / (weight || 1);
	};
	for (let c = 0; c <= levels + 1; c++) {
		let y = 24;
		for (const b of list.filter((x) => x.col === c).sort((a, z) => pull(a) - pull(z))) {
			b.h = Math.max(2, b.value * scale);
			b.x = x(c);
			b.y = y;
			y += Math.max(b.h, 14) + 8;
		}
	}
	const used = new Map<string, number>();
	const place = (id: string, side: string, h: number) => {
		const k = side + id;
		const at = used.get(k) ?? 0;
		used.set(k, at + h);
		return at;
	};
	const by = drawn;
	const paths = bands
		.sort((a, b) => by.get(a.to)!.col - by.get(b.to)!.col || by.get(a.to)!.y - by.get(b.to)!.y)
		.map((r) => {
			const [a, b] = [by.get(r.from)!, by.get(r.to)!];
			const h = Math.max(1, r.value * scale);
			const y0 = a.y + place(a.id, 'out ', h);
			const y1 = b.y + place(b.id, 'in ', h);
			const [x0, x1] = [a.x + 14, b.x];
			const mid = (x0 + x1) / 2;
			const over = `M${x0},${y0}C${mid},${y0} ${mid},${y1} ${x1},${y1}`;
			return { d: `${over}V${y1 + h}C${mid},${y1 + h} ${mid},${y0 + h} ${x0},${y0 + h}Z`, tone: r.tone };
		});
	const heads = Array.from({ length: levels + 1 }, (_, c) => {
		const names = new Set([...level].filter(([, l]) => l === c).map(([id]) => marks.get(id)!.itemName));
		return {
			x: x(c),
			text: c === 0 ? 'From' : names.size === 1 ? [...names][0] : names.size ? `${names.size} items` : ''
		};
	});
	heads.push({ x: x(levels + 1), text: 'Where it is now' });
	const height = Math.max(120, ...list.map((b) => b.y + Math.max(b.h, 14) + 10));
	return { list, paths, heads, height };
}
/** Ribbons between the same two bars as one. */
function together(ribbons: readonly Ribbon[]): Ribbon[] {
	const out = new Map<string, Ribbon>();
	for (const r of ribbons) {
		const key = `${r.from}>${r.to}>${r.tone}`;
		const there = out.get(key);
		if (there) there.value += r.value;
		else out.set(key, { ...r });
	}
	return [...out.values()];
}
