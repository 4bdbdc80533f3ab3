<script lang="ts">
	// What was shipped or received, and is not on the invoices that were noted; or on them, and has not moved.
	import { documentPath, type Kind } from '$lib/core/document/kinds';
	import { amount } from '$lib/core/quantity/quantity';
	import List from '$lib/ui/list/List.svelte';
	let { data } = $props();
</script>

<svelte:head><title>To be invoiced · Earmark</title></svelte:head>
<div class="head">
	<h1>Moved and not invoiced</h1>
	<span class="soft">invoices are noted on each order</span>
</div>
<List list={data.list} cells={['order', 'open']} open={['item', 'which']}>
	{#snippet cell(r, c)}
		{#if c.key === 'order'}<a class="mono" href={documentPath(r.orderKind as Kind, r.order ?? '')}>{r.order}</a>
		{:else}{(r.open ?? '').startsWith('-')
				? `${amount((r.open ?? '').slice(1), r.unit ?? '')} ahead`
				: amount(r.open ?? '0', r.unit ?? '')}{/if}
	{/snippet}
</List>
