<script lang="ts">
	import NewOrder from '$lib/ui/sheet/NewOrder.svelte';
	let { data, form } = $props();
</script>

<NewOrder {...data} faults={form?.faults ?? []} typed={form?.typed ?? null} />
