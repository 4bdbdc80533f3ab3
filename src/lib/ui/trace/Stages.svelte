<script lang="ts">
	// The picture of a forward trace: columns from the root to where it is now, heights are contents. The table proves.
	import { layStages, WIDTH } from '$lib/core/trace/stages';
	import type { TraceView } from '$lib/core/trace/view';

	let { view }: { view: TraceView } = $props();
	const drawn = $derived(layStages(view));
	const number = $derived(view.marks.find((m) => m.id === view.root)?.number ?? '');
	const cut = (t: string, n: number) => (t.length > n ? t.slice(0, n - 1) + '…' : t);
</script>

<figure aria-label="Stages of {number}, from left to right">
	<svg
		viewBox="0 0 {WIDTH} {drawn.height}"
		role="img"
		aria-label="Flow of {number} from left to right; the list after it and the table below hold the same"
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
	<ol class="visually-hidden">
		{#each drawn.heads as h, i (i)}<li>
				{h.text}: {drawn.list
					.filter((b) => drawn.x(b.col) === h.x)
					.map((b) => `${b.label}${b.count > 1 ? `, ${b.count}` : ''}`)
					.join('; ')}
			</li>{/each}
	</ol>
	<figcaption>
		<span class="key gone"></span>with customers <span class="key here"></span>still here
		<span class="key lost"></span>scrapped, adjusted or sent back
		<span class="soft">Height: how much of {number} is in it.</span>
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
	/* On a narrow screen the table says it better. */
	@media (max-width: 640px) {
		svg,
		figcaption {
			display: none;
		}
	}
</style>
