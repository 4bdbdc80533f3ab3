<script lang="ts">
	import { ClickableTile } from 'carbon-components-svelte';
	let { data } = $props();
</script>

<svelte:head><title>Stations · Earmark</title></svelte:head>
<main id="work">
	<h1>At which station are you?</h1>
	{#if data.stations.length}
		<div class="all">
			{#each data.stations as s (s.code)}
				<ClickableTile href="/station/{encodeURIComponent(s.code)}"
					><strong>{s.name}</strong><span class="soft mono">{s.place}</span><span class="soft"
						>{s.review ? 'waits for a review' : 'booked at once'}</span
					></ClickableTile
				>
			{/each}
		</div>
	{:else}<p>No station is set up yet. The coordinator adds one in Setup, Stations.</p>{/if}
	<p><a href="/">Back to Earmark</a></p>
</main>

<style>
	main {
		max-width: 50rem;
		margin: 0 auto;
		padding: 1.5rem 1rem;
	}
	.all {
		display: grid;
		grid-template-columns: repeat(auto-fill, minmax(14rem, 1fr));
		gap: 0.75rem;
		margin: 1rem 0;
	}
	.all :global(.bx--tile) {
		display: grid;
		gap: 0.25rem;
		min-height: 6rem;
		border: 1px solid var(--rule);
		font-size: 1rem;
	}
	strong {
		font-size: 1.25rem;
	}
</style>
