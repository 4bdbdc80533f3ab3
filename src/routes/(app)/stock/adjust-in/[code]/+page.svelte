<script lang="ts">
	import { showDay } from '$lib/ui/dates';
	import ReasonHead from '$lib/ui/sheet/ReasonHead.svelte';
	import Arriving from '$lib/ui/sheet/Arriving.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';

	let { data } = $props();
	const sheet = openSheet(() => data);
	const s = $derived(sheet.state);
</script>

<ReasonHead {s} done={s.closedAt ? `put in ${showDay(s.closedAt)}` : ''} />
<Arriving {sheet} {data} verb="Book adjustment" />
