<script lang="ts">
	import CheckmarkFilled from 'carbon-icons-svelte/lib/CheckmarkFilled.svelte';
	import type { Sheet } from './sheet.svelte';
	let { sheet }: { sheet: Sheet } = $props();
</script>

<div role="status">
	{#if sheet.notice}<p><CheckmarkFilled size={20} />{sheet.notice}</p>{/if}
</div>

<style>
	p {
		display: flex;
		align-items: center;
		gap: 0.5rem;
		margin: 0 0 0.75rem;
		padding: 0.4rem 0.75rem;
		background: var(--paper);
		border-left: 3px solid var(--green);
	}
	p :global(svg) {
		color: var(--green);
	}
</style>
