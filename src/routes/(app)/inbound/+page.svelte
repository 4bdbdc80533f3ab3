<script lang="ts">
	import OrderList from '$lib/ui/sheet/OrderList.svelte';
	let { data } = $props();
</script>

<OrderList
	title="Inbound"
	area="inbound"
	partner={'Supplier'}
	rows={data.rows}
	q={data.q}
	closed={data.closed}
	today={data.today}
	add={data.mayAdd ? { url: '/inbound/new', label: 'Enter a delivery' } : null}
/>
