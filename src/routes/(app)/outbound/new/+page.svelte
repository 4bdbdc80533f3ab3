<script lang="ts">
	import NewOrder from '$lib/ui/sheet/NewOrder.svelte';
	let { data, form } = $props();
</script>

<NewOrder
	title="New order to ship"
	kind="sale"
	items={data.items}
	partners={data.partners}
	places={data.places}
	today={data.today}
	faults={form?.faults ?? []}
	typed={form?.typed ?? null}
/>
