<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	import Checkmark from 'carbon-icons-svelte/lib/Checkmark.svelte';
	import Close from 'carbon-icons-svelte/lib/Close.svelte';
	import Edit from 'carbon-icons-svelte/lib/Edit.svelte';
	import type { ShownFinding } from '$lib/core/sheet/sheet';
	interface Props {
		findings: ShownFinding[];
		good?: string;
		/** said where nothing was found and nobody did anything yet */
		says?: string;
		/** takes the lot that a finding offers */
		onuse?: (lot: string) => void;
	}
	let { findings, good = '', says = '', onuse }: Props = $props();
</script>

{#each findings as f, i (i)}
	<span class="finding {f.level}">
		{#if f.level === 'stop'}<Close size={16} />{:else if f.level === 'reason'}<Edit size={16} />{/if}
		<span
			>{f.message}{#if f.mark && f.level !== 'note'}
				<a href="/register/{f.mark}">Open</a>{/if}{#if f.use && onuse}
				<Button kind="ghost" size="small" class="link" on:click={() => onuse(f.use!)}>Add to {f.use}</Button>{/if}</span
		>
	</span>
{:else}
	{#if good}<span class="finding good"><Checkmark size={16} />{good}</span>{:else if says}<span class="finding note"
			>{says}</span
		>{/if}
{/each}

<style>
	.finding {
		display: inline-flex;
		align-items: center;
		line-height: 1.35;
		gap: 0.25rem;
		margin-right: 0.75rem;
		overflow-wrap: anywhere;
	}
	.finding :global(svg) {
		flex: none;
	}
	.stop {
		color: var(--red);
	}
	.reason {
		color: var(--amber-ink);
	}
	.good {
		color: var(--green);
	}
	.note,
	.missing {
		color: var(--ink-soft);
	}
</style>
