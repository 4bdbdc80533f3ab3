<script lang="ts">
	// A link to a file that may take its time: what is being done is said beside it.
	import type { Snippet } from 'svelte';
	import { Making } from './making.svelte';
	import MakingState from './MakingState.svelte';
	let { href, children }: { href: string; children: Snippet } = $props();
	const making = new Making();
</script>

<span class="file">
	<a {href} onclick={(event) => making.follow(event)}>{@render children()}</a>
	<MakingState {making} />
</span>

<style>
	.file {
		display: inline-flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.25rem 0.75rem;
	}
	.file :global(.waiting) {
		margin: 0;
	}
</style>
