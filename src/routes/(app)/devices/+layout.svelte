<script lang="ts">
	import Tabs from '$lib/ui/shell/Tabs.svelte';
	let { data, children } = $props();
</script>

<svelte:head><title>Devices · Earmark</title></svelte:head>
<div class="head">
	<h1>Devices</h1>
	<span class="soft">These stand in for real ones. The scanner opens from the top of every page.</span>
</div>
{#if data.tabs.length > 1}<Tabs tabs={data.tabs} label="Devices" />{/if}
{@render children()}
