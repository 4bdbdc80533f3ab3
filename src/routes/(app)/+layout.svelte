<script lang="ts">
	import Shell from '$lib/ui/shell/Shell.svelte';
	let { data, children } = $props();
</script>

<Shell person={data.person} waiting={data.waiting} zone={data.zone}>{@render children()}</Shell>
