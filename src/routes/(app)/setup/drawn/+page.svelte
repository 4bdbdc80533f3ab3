<script lang="ts">
	import List from '$lib/ui/list/List.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data } = $props();
</script>

<List list={data.list} cells={['number', 'order', 'became']}>
	{#snippet cell(r, c)}
		{#if c.key === 'number'}<Tag
				kind={r.kind === 'lot' ? 'lot' : 'serial'}
				number={r.number ?? ''}
				id={r.mark}
				item={r.item ?? ''}
			/>
		{:else if c.key === 'order'}{#if r.orderPath}<a href={r.orderPath}>{r.order}</a>{:else}–{/if}
		{:else}<span class:open={r.became === 'not used'}>{r.became}</span>{/if}
	{/snippet}
</List>

<style>
	.open {
		color: var(--amber-ink);
	}
</style>
