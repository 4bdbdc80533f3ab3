<script lang="ts">
	import Tabs from '$lib/ui/shell/Tabs.svelte';
	let { data, children } = $props();
</script>

<svelte:head><title>Setup · Earmark</title></svelte:head>
<div class="head"><h1>Setup</h1></div>
<Tabs tabs={data.tabs} label="Setup" />
{@render children()}
