<script lang="ts">
	import OrderList from '$lib/ui/sheet/OrderList.svelte';
	let { data } = $props();
</script>

<OrderList
	title="Production"
	area="production"
	partner={null}
	rows={data.rows}
	q={data.q}
	closed={data.closed}
	today={data.today}
	add={data.mayAdd ? { url: '/production/new', label: 'New production order' } : null}
/>
