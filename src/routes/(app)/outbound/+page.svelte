<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	import OrderList from '$lib/ui/sheet/OrderList.svelte';
	let { data } = $props();
</script>

<OrderList {...data}>
	{#snippet links()}<Button kind="ghost" size="small" href="/outbound/counter">Over the counter</Button><Button
			kind="ghost"
			size="small"
			href="/outbound/invoices">To be invoiced</Button
		><Button kind="ghost" size="small" href="/outbound/returns">Returns to suppliers</Button>{/snippet}
</OrderList>
