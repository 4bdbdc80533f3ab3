<script lang="ts">
	import Said from '$lib/ui/shell/Said.svelte';
	import OrderList from '$lib/ui/sheet/OrderList.svelte';
	let { data, form } = $props();
</script>

<Said {form} />
<OrderList {...data} />
