<script lang="ts">
	import { useDecimalSign } from '$lib/core/quantity/sign';
	import Wedge from '$lib/ui/scan/Wedge.svelte';
	let { data, children } = $props();
	// svelte-ignore state_referenced_locally
	useDecimalSign(data.sign);
	$effect.pre(() => useDecimalSign(data.sign));
</script>

<Wedge />
{@render children()}
