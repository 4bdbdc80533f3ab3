<script lang="ts">
	// The picture of a forward trace: columns from the root to where it is now, heights are contents. The table proves. A bar
	// leads to its numbers in the table; what is folded into one opens a few at a time.
	import { grouped } from '$lib/core/quantity/sign';
	import { WIDTH, type Bar, type Stages } from '$lib/core/trace/stages';

	interface Props {
		drawn: Stages;
		number: string;
		/** where a bar leads */
		link: (bar: Bar) => string;
	}
	let { drawn, number, link }: Props = $props();
	const cut = (t: string, n: number) => (t.length > n ? t.slice(0, n - 1) + '…' : t);
	const counted = (b: Bar) => `${b.label}${b.count > 1 ? `, ${grouped(b.count)}` : ''}`;
</script>

<figure aria-label="Stages of {number}, from left to right">
	<svg
		viewBox="0 0 {WIDTH} {drawn.height}"
		aria-label="Flow of {number} from left to right; the table below holds the same"
	>
		{#each drawn.heads as h, i (i)}<text class="head" x={h.x} y="12">{cut(h.text, 26)}</text>{/each}
		{#each drawn.paths as p, i (i)}<path class={p.tone} d={p.d} />{/each}
		{#each drawn.list as b (b.id)}
			<a
				href={link(b)}
				data-sveltekit-noscroll
				data-sveltekit-keepfocus
				aria-label="{b.folds ? 'Show' : 'Find'} {counted(b)}"
				><rect class="hit" x={b.x} y={b.y - 2} width="170" height={Math.max(b.h, 14) + 4} /><rect
					class={b.tone}
					x={b.x}
					y={b.y}
					width="14"
					height={b.h}
				/>
				<text x={b.x + 20} y={b.y + Math.min(b.h / 2 + 4, 14)}
					>{cut(b.label, 22)}{b.count > 1 && !b.folds ? ` · ${grouped(b.count)}` : ''}</text
				></a
			>
		{/each}
	</svg>
	<ol class="visually-hidden">
		{#each drawn.heads as h, i (i)}<li>
				{h.text}: {drawn.list
					.filter((b) => b.col === i)
					.map(counted)
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
	a:hover text {
		text-decoration: underline;
	}
	rect.hit {
		fill: transparent;
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
		pointer-events: none;
		fill-opacity: 0.16;
	}
	path.ink {
		fill: var(--ink);
	}
	path.gone {
		fill: #0f62a8;
	}
	path.here {
		fill: var(--amber);
		fill-opacity: 0.3;
	}
	path.lost {
		fill: #8d99a3;
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
