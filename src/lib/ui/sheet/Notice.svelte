<script lang="ts">
	// What was booked last; it takes the focus when it comes, for the button that booked it may be spent.
	import CheckmarkFilled from 'carbon-icons-svelte/lib/CheckmarkFilled.svelte';
	import { told } from '../shell/focus';
	import type { Sheet } from './sheet.svelte';
	let { sheet }: { sheet: Sheet } = $props();
</script>

<div role="status">
	{#key sheet.notice}{#if sheet.notice}<p tabindex="-1" {@attach told}>
				<CheckmarkFilled size={20} />{sheet.notice}
			</p>{/if}{/key}
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
