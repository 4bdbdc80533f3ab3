<script lang="ts">
	// Expected deliveries, production orders, orders to ship, issues to jobs: one list, one way to find.
	import type { Snippet } from 'svelte';
	import { Button } from 'carbon-components-svelte';
	import { documentKind, documentPath, type Kind } from '$lib/core/document/kinds';
	import type { ListPage } from '$lib/core/list/list';
	import List from '../list/List.svelte';
	interface Props {
		kind: Kind;
		list: ListPage;
		mayAdd: boolean;
		today: string;
		/** what else its area offers */
		links?: Snippet;
	}
	let { kind, list, mayAdd, today, links }: Props = $props();
	const row = $derived(documentKind(kind));
	const title = $derived(row.words.list);
</script>

<svelte:head><title>{title} · Earmark</title></svelte:head>
<div class="head">
	<h1>{title}</h1>
	{@render links?.()}
	{#if mayAdd}<span class="push"><Button size="small" href="{row.path}/new">{row.words.add}</Button></span>{/if}
</div>
<List {list} cells={['code', 'due']} open={['which']}>
	{#snippet cell(r, c)}
		{#if c.key === 'code'}<a class="mono" href={documentPath(kind, r.code ?? '')}>{r.code}</a>
		{:else if !r.due}–
		{:else}<span class:late={r.late === 'true'}
				>{r.due === today ? 'today' : r.due}{r.late === 'true' ? ', overdue' : ''}</span
			>{/if}
	{/snippet}
	{#snippet none()}
		Nothing is open here. {#if mayAdd}<a href="{row.path}/new">{row.words.add}</a>{/if}
	{/snippet}
</List>

<style>
	.late {
		color: var(--red);
	}
</style>
