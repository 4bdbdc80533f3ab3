<script lang="ts">
	import OrderList from '$lib/ui/sheet/OrderList.svelte';
	let { data } = $props();
</script>

<OrderList {...data}>
	{#snippet links()}
		<a href="/production/review">Review</a>
		<a href="/production/shortage">Shortage</a>
		<a href="/production/floor">Floor</a>
		<a href="/production/yield">Yield</a>
		<a href="/station">Stations</a>
	{/snippet}
</OrderList>
