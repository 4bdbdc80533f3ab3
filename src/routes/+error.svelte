<script lang="ts">
	import { page } from '$app/state';
	/** A trace of a moment that is still to come: the same as it is now. */
	const now = $derived.by(() => {
		if (page.status !== 422 || !page.url.searchParams.has('ledgerSize')) return null;
		const query = new URLSearchParams(page.url.searchParams);
		query.delete('ledgerSize');
		return `${page.url.pathname}?${query}`;
	});
</script>

<svelte:head><title>Earmark</title></svelte:head>
<main class="alone">
	<h1>{page.error?.message ?? 'This cannot be shown.'}</h1>
	<p>
		{#if now}<a href={now}>Trace it as it is now</a> ·
		{/if}<a href={page.url.pathname}>Try again</a> · <a href="/">Today</a>
	</p>
	{#if page.error?.requestId}<p class="soft">For the log: {page.error.requestId}</p>{/if}
</main>
