<script lang="ts">
	import OrderList from '$lib/ui/sheet/OrderList.svelte';
	let { data } = $props();
</script>

<OrderList {...data}>
	{#snippet links()}
		<a href="/production/review">Review</a>
		<a href="/station">Stations</a>
	{/snippet}
</OrderList>
