<script lang="ts">
	import { documentPath, type Kind } from '$lib/core/document/kinds';
	import { amount } from '$lib/core/quantity/quantity';
	import List from '$lib/ui/list/List.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data } = $props();
</script>

<svelte:head><title>Parts in units · Earmark</title></svelte:head>
<div class="head"><h1>Parts in units</h1></div>
<List list={data.list} cells={['number', 'partNumber', 'qty', 'order']} open={['item', 'partItem', 'state', 'known']}>
	{#snippet cell(r, c)}
		{#if c.key === 'number'}{#if r.made}<Tag
					kind={r.madeKind}
					number={r.number ?? ''}
					id={r.made}
					status={r.madeStatus ?? 'released'}
					expiresOn={r.madeExpires}
				/>{:else}–{/if}
		{:else if c.key === 'partNumber'}<Tag
				kind={r.partKind}
				number={r.partNumber ?? ''}
				id={r.part}
				status={r.partStatus ?? 'released'}
				expiresOn={r.partExpires}
			/>
		{:else if c.key === 'qty'}{amount(r.qty ?? '0', r.unit ?? '')}
		{:else if r.order && r.orderKind}<a href={documentPath(r.orderKind as Kind, r.order)}>{r.order}</a>{:else}–{/if}
	{/snippet}
</List>
