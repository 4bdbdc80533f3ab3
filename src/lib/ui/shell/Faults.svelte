<script lang="ts">
	import WarningFilled from 'carbon-icons-svelte/lib/WarningFilled.svelte';
	import type { Fault } from '$lib/core/problem/problem';
	let { faults, onclose }: { faults: Fault[]; onclose?: () => void } = $props();
	/** Whoever pressed a button at the foot of a long page sees what came of it. */
	const show = (el: HTMLElement) => {
		if (faults.length) el.scrollIntoView({ block: 'nearest' });
	};
</script>

{#if faults.length}
	<div class="faults" role="alert" {@attach show}>
		<WarningFilled size={20} />
		<ul>
			{#each faults.slice(0, 12) as f, i (i)}<li>
					{f.message}{#if f.at && /^(row|line) /.test(f.at)}<span class="soft"> ({f.at})</span>{/if}
				</li>{/each}
			{#if faults.length > 12}<li class="soft">and {faults.length - 12} more</li>{/if}
		</ul>
		{#if onclose}<button class="link" onclick={onclose}>Put away</button>{/if}
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
