<script lang="ts">
	import { page } from '$app/state';
</script>

<svelte:head><title>Earmark</title></svelte:head>
<main class="alone">
	<h1>{page.error?.message ?? 'This cannot be shown.'}</h1>
	<p><a href={page.url.pathname}>Try again</a> · <a href="/">Today</a></p>
	{#if page.error?.requestId}<p class="soft">For the log: {page.error.requestId}</p>{/if}
</main>
