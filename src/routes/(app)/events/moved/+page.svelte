<script lang="ts">
	import { showWhen } from '$lib/ui/dates';
	import { documentPath, type Kind } from '$lib/core/document/kinds';
	import { eventPath } from '$lib/core/ledger/events';
	import { placeName } from '$lib/core/ledger/places';
	import { amount } from '$lib/core/quantity/quantity';
	import List from '$lib/ui/list/List.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data } = $props();
	const head = $derived(data.head);
	const THROUGH: Record<string, string> = {
		screen: 'on a screen',
		station: 'at a station',
		import: 'by an import',
		api: 'by another program'
	};
</script>

<svelte:head><title>{head ? `Event ${head.id}: ${head.kind}` : 'Movements'} · Earmark</title></svelte:head>
<div class="head">
	<h1>{head ? `Event ${head.id}, ${head.kind}` : 'Everything moved'}</h1>
	{#if head?.undone}<span class="soft">undone by <a href={eventPath(head.undone)}>event {head.undone}</a></span>{/if}
	<span class="push"><a href="/events">Everything booked</a></span>
</div>
{#if head}
	<dl class="facts">
		<dt>Happened</dt>
		<dd>{showWhen(head.at)}</dd>
		<dt>Recorded</dt>
		<dd>
			{showWhen(head.recordedAt)} by {head.by}, {THROUGH[head.source]}
		</dd>
		{#if head.order && head.orderKind}<dt>Order</dt>
			<dd><a href={documentPath(head.orderKind as Kind, head.order)}>{head.order}</a></dd>{/if}
		{#if head.document && head.document !== head.order}<dt>Document</dt>
			<dd class="mono">{head.document}</dd>{/if}
		{#if head.partner}<dt>Partner or job</dt>
			<dd>{head.partner}</dd>{/if}
		{#if head.reason}<dt>Reason</dt>
			<dd>{head.reason}</dd>{/if}
		{#if head.note}<dt>Note</dt>
			<dd>{head.note}</dd>{/if}
		{#if head.undoes}<dt>Takes back</dt>
			<dd><a href={eventPath(head.undoes)}>event {head.undoes}</a></dd>{/if}
		{#each head.changes as c, i (i)}
			<dt>Changed of <a class="mono" href="/register/{c.mark}">{c.number}</a></dt>
			<dd>{c.said}</dd>
		{/each}
		{#if head.more}<dt>More changes</dt>
			<dd>The first {head.changes.length} are shown; each stands on its number’s page.</dd>{/if}
	</dl>
{/if}
{#if !head || head.movements}
	<List list={data.list} cells={['number', 'qty', 'event', 'act', 'from', 'to']} open={['item', 'place']}>
		{#snippet cell(r, c)}
			{#if c.key === 'number'}<Tag
					kind={r.markKind}
					number={r.number ?? ''}
					id={r.mark}
					status={r.status ?? 'released'}
				/>
			{:else if c.key === 'qty'}{amount(r.qty ?? '0', r.unit ?? '')}
			{:else if c.key === 'from' || c.key === 'to'}{placeName(r[c.key] ?? '')}
			{:else if c.key === 'act'}<a href={eventPath(r.eventId ?? '')}>{r.act}</a>
			{:else}<a href={eventPath(r.eventId ?? '')}>{r.event}</a>{/if}
		{/snippet}
	</List>
{:else}<p class="soft">It moved nothing.</p>{/if}

<style>
	.facts {
		display: grid;
		grid-template-columns: max-content 1fr;
		gap: 0.25rem 1rem;
		margin: 0 0 1rem;
		padding: 0.75rem;
		border: 1px solid var(--rule);
		background: var(--paper);
	}
	dt {
		color: var(--ink-soft);
	}
	dd {
		margin: 0;
	}
</style>
