<script lang="ts">
	import { grouped } from '$lib/core/quantity/sign';
	import { Button } from 'carbon-components-svelte';
	import Hidden from '../fields/Hidden.svelte';
	// What the supplier announced for a line, ticked off by what has arrived.
	import Checkmark from 'carbon-icons-svelte/lib/Checkmark.svelte';
	import type { AnnouncedLine } from '$lib/core/sheet/sheet';
	let { announced: a, onenter }: { announced: AnnouncedLine; onenter?: () => void } = $props();
	const have = $derived(a.arrived === 1 ? 'has' : 'have');
	const some = (list: string[]) =>
		list.slice(0, 5).join(', ') + (list.length > 5 ? ` and ${list.length - 5} more` : '');
</script>

<div class="announced" class:all={!a.missing.length && !a.extra.length}>
	<span
		>{#if !a.missing.length}<Checkmark size={16} />{/if}<b>{grouped(a.arrived)}</b> of {grouped(a.expected)} announced {have}
		arrived</span
	>
	{#if a.missing.length}<span>missing: <span class="mono">{some(a.missing)}</span></span>{/if}
	{#if a.extra.length}<span class="extra">not announced: <span class="mono">{some(a.extra)}</span></span>{/if}
	{#if a.pallets.length}<form method="POST" action="/devices?/print">
			<Hidden name="size" value="148 × 105" />
			{a.pallets.length === 1 ? 'Pallet' : 'Pallets'}
			{#each a.pallets.slice(0, 4) as p (p)}<span class="mono">{p}</span>
				{#if onenter}<Button kind="ghost" size="small" class="link" type="submit" name="pallet" value={p}
						>Print label<span class="visually-hidden"> of pallet {p}</span></Button
					>{/if}&ensp;{/each}{a.pallets.length > 4 ? `and ${a.pallets.length - 4} more` : ''}
			<span class="soft">Scan one to enter all that is on it.</span>
		</form>{/if}
	{#if a.missing.length && onenter}<Button kind="ghost" size="small" class="link" on:click={onenter}
			>Enter all announced</Button
		>{/if}
</div>

<style>
	.announced {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 1.25rem;
		margin: 0;
		padding: 0.4rem 0.75rem;
		border-bottom: 1px solid var(--rule);
		background: var(--ground);
		font-size: 0.8125rem;
	}
	.announced :global(svg) {
		vertical-align: -3px;
		margin-right: 0.25rem;
	}
	.all {
		color: var(--green);
	}
	.extra {
		color: var(--amber-ink);
	}
</style>
