<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	import { amount } from '$lib/core/quantity/quantity';
	import List from '$lib/ui/list/List.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data } = $props();
	const onHand = $derived((data.list.view.filters.show ?? data.list.standing.show)?.is === 'on hand');
</script>

<svelte:head><title>Register · Earmark</title></svelte:head>
<div class="head">
	<h1>Register</h1>
	<span class="soft">every lot and serial{onHand ? ' on hand; those that are gone are under “Which”' : ''}</span>
	<span class="push"><Button kind="ghost" size="small" href="/events">Everything booked</Button></span>
</div>
<List list={data.list} cells={['number', 'qty', 'place']} open={['item', 'place', 'kind', 'show']}>
	{#snippet cell(r, c)}
		{#if c.key === 'number'}<Tag
				kind={r.kind === 'lot' ? 'lot' : 'serial'}
				number={r.number ?? ''}
				id={r.id}
				status={r.status ?? 'released'}
				expiresOn={r.state === 'on hand' ? r.expires : null}
			/>
		{:else if c.key === 'qty'}{r.qty === '0' ? '–' : amount(r.qty ?? '0', r.unit ?? '')}
		{:else if r.place}{r.place}{:else}<span class="soft">{r.state}</span>{/if}
	{/snippet}
</List>
