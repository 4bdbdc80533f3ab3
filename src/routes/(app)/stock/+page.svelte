<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	import { narrowedPath } from '$lib/core/list/list';
	import { amount } from '$lib/core/quantity/quantity';
	import List from '$lib/ui/list/List.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data } = $props();
</script>

<svelte:head><title>Stock · Earmark</title></svelte:head>
<div class="head">
	<h1>Stock</h1>
	<span class="push acts">
		<Button kind="ghost" size="small" href="/stock/transfers">Transfers</Button>
		<Button kind="ghost" size="small" href="/stock/repacking">Repacking</Button>
		<Button kind="ghost" size="small" href="/stock/issues">Issues to jobs</Button>
		<Button kind="ghost" size="small" href="/stock/counts">Counts</Button>
		<Button kind="ghost" size="small" href="/stock/numbering">Numbering</Button>
		<Button kind="ghost" size="small" href="/stock/adjusted">Adjustments</Button>
		{#if data.mayMove}<Button size="small" href="/stock/move">Put away or move</Button>{/if}
	</span>
</div>
<List list={data.list} cells={['number', 'qty', 'place']} open={['item', 'place', 'status']}>
	{#snippet tools()}
		<Button
			kind="ghost"
			size="small"
			href={narrowedPath('/stock/totals', data.list.view.filters, ['item', 'place', 'asOf'])}>Totals by item</Button
		>
	{/snippet}
	{#snippet cell(r, c)}
		{#if c.key === 'number'}<Tag
				kind={r.markKind}
				number={r.number ?? ''}
				id={r.mark}
				status={r.statusNow ?? 'released'}
				expiresOn={r.expires}
			/>
		{:else if c.key === 'qty'}{amount(r.qty ?? '0', r.unit ?? '')}
		{:else if data.mayMove}<a href="/stock/move?place={encodeURIComponent(r.place ?? '')}">{r.place}</a>
		{:else}{r.place}{/if}
	{/snippet}
</List>
