<script lang="ts">
	// A page before the work begins: the name, and what is asked.
	import type { Snippet } from 'svelte';
	let { children }: { children: Snippet } = $props();
</script>

<main>
	<h1>
		<svg viewBox="0 0 24 16" width="30" height="20" aria-hidden="true"
			><path d="M1 1h15a7 7 0 0 1 0 14H1z" fill="#f0a30a" /><circle cx="6" cy="8" r="2.4" fill="#14202a" /></svg
		>Earmark
	</h1>
	{@render children()}
</main>

<style>
	main {
		width: min(22rem, 90vw);
		margin: 14vh auto 0;
	}
	h1 {
		display: flex;
		align-items: center;
		gap: 0.6rem;
		font-size: 1.75rem;
	}
</style>
