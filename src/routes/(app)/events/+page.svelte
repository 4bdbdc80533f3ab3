<script lang="ts">
	import { documentPath, type Kind } from '$lib/core/document/kinds';
	import { eventPath } from '$lib/core/ledger/events';
	import List from '$lib/ui/list/List.svelte';
	let { data } = $props();
</script>

<svelte:head><title>Everything booked · Earmark</title></svelte:head>
<div class="head">
	<h1>Everything booked</h1>
	<span class="push"><a href="/events/moved">Everything moved</a></span>
</div>
<List list={data.list} cells={['kind', 'order']}>
	{#snippet cell(e, c)}
		{#if c.key === 'kind'}<a href={eventPath(e.id)}>{e.kind}</a>{e.undone ? ', undone' : ''}
		{:else if e.order && e.orderKind}<a href={documentPath(e.orderKind as Kind, e.order)}>{e.order}</a>{:else}–{/if}
	{/snippet}
</List>
