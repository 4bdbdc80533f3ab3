<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	import OrderList from '$lib/ui/sheet/OrderList.svelte';
	let { data } = $props();
</script>

<OrderList {...data}>
	{#snippet links()}<Button kind="ghost" size="small" href="/inbound/returns">Returns from customers</Button><Button
			kind="ghost"
			size="small"
			href="/outbound/invoices?which=received">To be invoiced</Button
		>{/snippet}
</OrderList>
