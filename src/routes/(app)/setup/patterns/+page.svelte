<script lang="ts">
	import { grouped } from '$lib/core/quantity/sign';
	import { Button } from 'carbon-components-svelte';
	import List from '$lib/ui/list/List.svelte';
	let { data } = $props();
</script>

<List list={data.list} cells={['code', 'drawn']}>
	{#snippet cell(p, c)}
		{#if c.key === 'code'}<a href="/setup/patterns/{encodeURIComponent(p.code ?? '')}">{p.code}</a>
		{:else if p.drawn === '0'}0
		{:else}<a href="/setup/drawn?pattern={encodeURIComponent(p.code ?? '')}">{grouped(Number(p.drawn))}</a>{/if}
	{/snippet}
	{#snippet tools()}<Button size="small" href="/setup/patterns/new">New pattern</Button>{/snippet}
</List>
