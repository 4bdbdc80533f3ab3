<script lang="ts">
	import { useDecimalSign } from '$lib/core/quantity/sign';
	import { useDateLanguage } from '$lib/ui/dates';
	import Shell from '$lib/ui/shell/Shell.svelte';
	let { data, children } = $props();
	// svelte-ignore state_referenced_locally
	useDecimalSign(data.sign);
	// svelte-ignore state_referenced_locally
	useDateLanguage(data.dates);
	$effect.pre(() => useDecimalSign(data.sign));
</script>

<Shell person={data.person} waiting={data.waiting} zone={data.zone}>{@render children()}</Shell>
