<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	import List from '$lib/ui/list/List.svelte';
	let { data } = $props();
</script>

<List list={data.list} cells={['code']}>
	{#snippet cell(k)}<a href="/setup/kinds/{encodeURIComponent(k.code ?? '')}">{k.code}</a>{/snippet}
	{#snippet tools()}<Button size="small" href="/setup/kinds/new">New kind of items</Button>{/snippet}
</List>
