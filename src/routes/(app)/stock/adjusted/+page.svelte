<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	import { documentPath, type Kind } from '$lib/core/document/kinds';
	import { eventPath } from '$lib/core/ledger/events';
	import { amount } from '$lib/core/quantity/quantity';
	import List from '$lib/ui/list/List.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data } = $props();
	const signed = (qty: string, unit: string) =>
		qty.startsWith('-') ? `− ${amount(qty.slice(1), unit)}` : `+ ${amount(qty, unit)}`;
</script>

<svelte:head><title>Adjustments · Earmark</title></svelte:head>
<div class="head">
	<h1>Adjustments, counts and corrections</h1>
	<span class="push acts">
		<Button kind="ghost" size="small" href="/stock/adjust-out">Adjustments out</Button>
		<Button kind="ghost" size="small" href="/stock/adjust-in">Adjustments in</Button>
		{#if data.may}
			<Button size="small" href="/stock/adjust-out/new">New adjustment out</Button>
			<Button size="small" href="/stock/adjust-in/new">New adjustment in</Button>
		{/if}
	</span>
</div>
<List list={data.list} cells={['at', 'number', 'change', 'order']} open={['item', 'act', 'reason']}>
	{#snippet cell(r, c)}
		{#if c.key === 'at'}<a href={eventPath(r.eventId ?? '')}>{r.at}</a>{r.undone ? ', undone' : ''}
		{:else if c.key === 'number'}<Tag
				kind={r.markKind}
				number={r.number ?? ''}
				id={r.mark}
				status={r.statusNow ?? 'released'}
				expiresOn={r.expires}
			/>
		{:else if c.key === 'change'}{r.change ? signed(r.change, r.unit ?? '') : '–'}
		{:else if r.order && r.orderKind}<a href={documentPath(r.orderKind as Kind, r.order)}>{r.order}</a>{:else}–{/if}
	{/snippet}
</List>
