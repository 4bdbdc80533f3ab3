<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	import { amount } from '$lib/core/quantity/quantity';
	import { narrowedPath, type Filter } from '$lib/core/list/list';
	import List from '$lib/ui/list/List.svelte';
	let { data } = $props();
	const filters = $derived(data.list.view.filters);
	const numbersOf = (f: Record<string, Filter>) => narrowedPath('/stock', f, ['item', 'place', 'asOf']);
	const AMOUNTS = ['qty', 'free', 'held', 'stopped', 'theirs'];
</script>

<svelte:head><title>Stock by item · Earmark</title></svelte:head>
<div class="head">
	<h1>Stock by item</h1>
	<span class="push"><a href="/stock">Stock</a></span>
</div>
<List list={data.list} cells={['item', ...AMOUNTS]} open={['item', 'place', 'asOf']}>
	{#snippet tools()}
		<Button kind="ghost" size="small" href={numbersOf(filters)}>Each number and bin</Button>
	{/snippet}
	{#snippet cell(r, c)}
		{#if c.key === 'item'}<a href={numbersOf({ ...filters, item: { is: r.itemCode ?? '' } })}>{r.item}</a>
		{:else if r[c.key] === null || (r[c.key] === '0' && c.key !== 'free')}–
		{:else}{amount(r[c.key] ?? '0', r.unit ?? '')}{/if}
	{/snippet}
</List>
