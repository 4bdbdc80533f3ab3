<script lang="ts">
	import { useDecimalSign } from '$lib/core/quantity/sign';
	import Shell from '$lib/ui/shell/Shell.svelte';
	let { data, children } = $props();
	// svelte-ignore state_referenced_locally
	useDecimalSign(data.sign);
	$effect.pre(() => useDecimalSign(data.sign));
</script>

<Shell person={data.person} waiting={data.waiting} zone={data.zone}>{@render children()}</Shell>
