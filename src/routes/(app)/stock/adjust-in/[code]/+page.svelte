<script lang="ts">
	import { endedOn } from '$lib/core/sheet/ended';
	import ReasonHead from '$lib/ui/sheet/ReasonHead.svelte';
	import Arriving from '$lib/ui/sheet/Arriving.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';

	let { data } = $props();
	const sheet = openSheet(() => data);
	const s = $derived(sheet.state);
</script>

<ReasonHead {s} done={endedOn(s, 'put in')} />
<Arriving {sheet} {data} verb="Book adjustment" />
