<script lang="ts">
	import OrderList from '$lib/ui/sheet/OrderList.svelte';
	let { data } = $props();
</script>

<OrderList
	title="Outbound"
	area="outbound"
	partner={'Customer'}
	rows={data.rows}
	q={data.q}
	closed={data.closed}
	today={data.today}
	add={data.mayAdd ? { url: '/outbound/new', label: 'New order to ship' } : null}
/>
