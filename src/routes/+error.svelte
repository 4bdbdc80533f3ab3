<script lang="ts">
	import { page } from '$app/state';
</script>

<svelte:head><title>Earmark</title></svelte:head>
<main>
	<h1>{page.error?.message ?? 'This cannot be shown.'}</h1>
	<p><a href={page.url.pathname}>Try again</a> · <a href="/">Today</a></p>
	{#if page.error?.requestId}<p class="soft">For the log: {page.error.requestId}</p>{/if}
</main>

<style>
	main {
		max-width: 40rem;
		margin: 6rem auto;
		padding: 0 1rem;
	}
</style>
