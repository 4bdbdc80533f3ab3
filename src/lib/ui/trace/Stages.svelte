<script lang="ts">
	// The picture of a forward trace: columns from the root to where it is now, heights are contents. The table proves.
	import Fraction from 'fraction.js';
	import type { TraceView } from '$lib/core/trace/view';

	let { view }: { view: TraceView } = $props();
	const W = 900;
	const H = 250;
	interface Bar {
		id: string;
		label: string;
		count: number;
		col: number;
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
	const num = (t: string | null) => (t ? new Fraction(t.replaceAll(',', '')).valueOf() : 0);
	const MOST = 7;

	const drawn = $derived.by(() => {
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
		const levels = Math.max(0, ...level.values());
		const flow = new Map<string, number>();
		const name = (id: string) => {
			const m = marks.get(id)!;
			return m.kind === 'serial' ? `${level.get(id)} ${m.item}` : id;
		};
		const ribbons = new Map<string, Ribbon>();
		const link = (from: string, to: string, value: number, tone: Ribbon['tone']) => {
			if (!(value > 0) || from === to) return;
			const k = from + '>' + to;
			const r = ribbons.get(k) ?? { from, to, value: 0, tone };
			r.value += value;
			ribbons.set(k, r);
		};
		for (const s of view.steps) {
			const into = s.inputs.filter((i) => i.role === 'use' && num(i.content) > 0);
			const sum = into.reduce((n, i) => n + num(i.content), 0);
			const out = s.outputs.map((o) => ({ ...o, v: s.pooled ? num(o.content) : sum / Math.max(1, s.outputs.length) }));
			for (const i of into)
				for (const o of out) link(name(i.mark), name(o.mark), (o.v * num(i.content)) / (sum || 1), 'ink');
		}
		const bars = new Map<string, Bar>();
		const bar = (id: string, label: string, col: number, tone: Bar['tone']) => {
			const b = bars.get(id) ?? { id, label, count: 0, col, value: 0, tone, y: 0, h: 0 };
			bars.set(id, b);
			return b;
		};
		for (const [id, l] of level) {
			const m = marks.get(id)!;
			const b = bar(name(id), m.kind === 'serial' && id !== view.root ? m.itemName : m.number, l, 'ink');
			b.count++;
			flow.set(b.id, 0);
		}
		for (const w of view.where) {
			const v = num(w.content);
			const tone = w.state === 'shipped' ? 'gone' : w.state === 'on hand' || w.state === 'in process' ? 'here' : 'lost';
			const label =
				w.state === 'in process'
					? `in process, ${w.run}`
					: w.state === 'shipped' || w.state === 'on hand'
						? (w.at ?? 'not named')
						: w.state;
			const end = bar(`end ${tone} ${label}`, label, levels + 1, tone);
			end.count++;
			const from = w.mark ? name(w.mark) : view.steps.find((s) => s.run === w.run)?.inputs.map((i) => name(i.mark))[0];
			if (from && bars.has(from)) link(from, end.id, v, tone);
		}
		// Small bars of a crowded column fold into one.
		const sums = (id: string, side: 'from' | 'to') =>
			[...ribbons.values()].filter((r) => r[side] === id).reduce((n, r) => n + r.value, 0);
		for (const b of bars.values())
			b.value =
				b.id === name(view.root)
					? num(view.rootQty)
					: Math.max(sums(b.id, 'to'), b.col > levels ? 0 : sums(b.id, 'from'));
		let list = [...bars.values()].filter((b) => b.value > 0);
		for (let col = 1; col <= levels + 1; col++) {
			const mine = list.filter((b) => b.col === col).sort((a, b) => b.value - a.value);
			if (mine.length <= MOST) continue;
			for (const tone of ['ink', 'gone', 'here', 'lost'] as const) {
				const small = mine.slice(MOST - 1).filter((b) => b.tone === tone);
				if (small.length < 2) continue;
				const fold: Bar = {
					id: `fold ${col} ${tone}`,
					label: `${small.length} more`,
					count: small.reduce((n, b) => n + b.count, 0),
					col,
					value: small.reduce((n, b) => n + b.value, 0),
					tone,
					y: 0,
					h: 0
				};
				const gone = new Set(small.map((b) => b.id));
				for (const r of ribbons.values()) {
					if (gone.has(r.from)) r.from = fold.id;
					if (gone.has(r.to)) r.to = fold.id;
				}
				list = [...list.filter((b) => !gone.has(b.id)), fold];
			}
		}
		const total = num(view.rootQty) || 1;
		const crowd = Math.max(...Array.from({ length: levels + 2 }, (_, c) => list.filter((b) => b.col === c).length));
		const scale = (H - 30 - crowd * 12) / total;
		const step = (W - 190) / (levels + 1);
		for (let c = 0; c <= levels + 1; c++) {
			let y = 24;
			// Each bar near what it comes from: the mean height of its sources.
			const pull = (b: Bar) => {
				const sources = [...ribbons.values()].filter((r) => r.to === b.id).flatMap((r) => list.filter((x) => x.id === r.from).map((x) => ({ y: x.y + x.h / 2, v: r.value }))); // prettier-ignore
				return sources.reduce((n, s) => n + s.y * s.v, 0) / (sources.reduce((n, s) => n + s.v, 0) || 1);
			};
			for (const b of list.filter((x) => x.col === c).sort((a, z) => pull(a) - pull(z))) {
				b.h = Math.max(2, b.value * scale);
				b.y = y;
				y += Math.max(b.h, 14) + 8;
			}
		}
		const x = (c: number) => 8 + c * step;
		const used = new Map<string, number>();
		const place = (id: string, side: string, h: number) => {
			const k = side + id;
			const at = used.get(k) ?? 0;
			used.set(k, at + h);
			return at;
		};
		const by = new Map(list.map((b) => [b.id, b]));
		const paths = [...ribbons.values()]
			.filter((r) => by.has(r.from) && by.has(r.to))
			.sort((a, b) => by.get(a.to)!.col - by.get(b.to)!.col || by.get(a.to)!.y - by.get(b.to)!.y)
			.map((r) => {
				const [a, b] = [by.get(r.from)!, by.get(r.to)!];
				const h = Math.max(1, r.value * scale);
				const y0 = a.y + place(a.id, 'out ', h) + h / 2;
				const y1 = b.y + place(b.id, 'in ', h) + h / 2;
				const [x0, x1] = [x(a.col) + 14, x(b.col)];
				const mid = (x0 + x1) / 2;
				return { d: `M${x0},${y0}C${mid},${y0} ${mid},${y1} ${x1},${y1}`, h, tone: r.tone };
			});
		const heads = Array.from({ length: levels + 1 }, (_, c) => {
			const first = [...level].find(([, l]) => l === c);
			const names = new Set([...level].filter(([, l]) => l === c).map(([id]) => marks.get(id)!.itemName));
			return {
				x: x(c),
				text: c === 0 ? 'From' : names.size === 1 ? [...names][0] : first ? `${names.size} items` : ''
			};
		});
		heads.push({ x: x(levels + 1), text: 'Where it is now' });
		const height = Math.min(480, Math.max(120, ...list.map((b) => b.y + Math.max(b.h, 14) + 10)));
		return { list, paths, heads, x, height };
	});
	const cut = (t: string, n: number) => (t.length > n ? t.slice(0, n - 1) + '…' : t);
</script>

<figure>
	<svg
		viewBox="0 0 {W} {drawn.height}"
		role="img"
		aria-label="Flow of the root from left to right; the table below holds the same figures"
	>
		{#each drawn.heads as h, i (i)}<text class="head" x={h.x} y="12">{cut(h.text, 26)}</text>{/each}
		{#each drawn.paths as p, i (i)}<path class={p.tone} d={p.d} stroke-width={p.h} />{/each}
		{#each drawn.list as b (b.id)}
			<rect class={b.tone} x={drawn.x(b.col)} y={b.y} width="14" height={b.h} />
			<text x={drawn.x(b.col) + 20} y={b.y + Math.min(b.h / 2 + 4, 14)}
				>{cut(b.label, 22)}{b.count > 1 && !b.label.endsWith('more') ? ` · ${b.count}` : ''}</text
			>
		{/each}
	</svg>
	<figcaption>
		<span class="key gone"></span>with customers <span class="key here"></span>still here
		<span class="key lost"></span>scrapped, adjusted or sent back
		<span class="soft">Height: how much of the root is in it.</span>
	</figcaption>
</figure>

<style>
	figure {
		margin: 0;
		padding: 0.5rem 0.75rem;
		min-width: 0;
	}
	svg {
		width: 100%;
		display: block;
	}
	text {
		font-size: 12px;
		fill: var(--ink);
		paint-order: stroke;
		stroke: var(--paper);
		stroke-width: 3px;
	}
	text.head {
		fill: var(--ink-soft);
	}
	rect.ink {
		fill: var(--ink);
	}
	rect.gone {
		fill: #0f62a8;
	}
	rect.here {
		fill: var(--amber);
	}
	rect.lost {
		fill: #8d99a3;
	}
	path {
		fill: none;
		stroke-opacity: 0.16;
	}
	path.ink {
		stroke: var(--ink);
	}
	path.gone {
		stroke: #0f62a8;
	}
	path.here {
		stroke: var(--amber);
		stroke-opacity: 0.3;
	}
	path.lost {
		stroke: #8d99a3;
	}
	figcaption {
		font-size: 0.75rem;
		display: flex;
		gap: 0.5rem;
		align-items: center;
	}
	.key {
		width: 10px;
		height: 10px;
		margin-left: 0.5rem;
	}
	.key.gone {
		background: #0f62a8;
	}
	.key.here {
		background: var(--amber);
	}
	.key.lost {
		background: #8d99a3;
	}
</style>
