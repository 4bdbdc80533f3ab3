<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	import WarningFilled from 'carbon-icons-svelte/lib/WarningFilled.svelte';
	import { told } from './focus';
	import type { Fault } from '$lib/core/problem/problem';
	let { faults, onclose }: { faults: Fault[]; onclose?: () => void } = $props();
	/** Whoever pressed a button at the foot of a long page sees what came of it. */
	const show = (el: HTMLElement) => {
		el.scrollIntoView({ block: 'nearest' });
		told(el);
	};
</script>

{#if faults.length}
	<div class="faults" role="alert" tabindex="-1" {@attach show}>
		<WarningFilled size={20} />
		<ul>
			{#each faults.slice(0, 12) as f, i (i)}<li>
					{f.message}{#if f.at && /^(row|line) /.test(f.at)}<span class="soft"> ({f.at})</span>{/if}
				</li>{/each}
			{#if faults.length > 12}<li class="soft">and {faults.length - 12} more</li>{/if}
		</ul>
		{#if onclose}<Button kind="ghost" size="small" class="link" on:click={onclose}>Close</Button>{/if}
	</div>
{/if}

<style>
	.faults {
		scroll-margin: 60px;
		display: flex;
		gap: 0.6rem;
		align-items: flex-start;
		padding: 0.5rem 0.75rem;
		margin-bottom: 0.75rem;
		background: var(--red-soft);
		border-left: 3px solid var(--red);
		color: var(--ink);
	}
	.faults :global(svg) {
		color: var(--red);
		flex: none;
	}
	ul {
		margin: 0;
		padding: 0;
		list-style: none;
		flex: 1;
	}
	li {
		overflow-wrap: anywhere;
	}
</style>
