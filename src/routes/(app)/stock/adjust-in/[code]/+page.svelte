<script lang="ts">
	import { onMount } from 'svelte';
	import { showDay } from '$lib/core/dates/dates';
	import ReasonHead from '$lib/ui/sheet/ReasonHead.svelte';
	import Arriving from '$lib/ui/sheet/Arriving.svelte';
	import { Sheet } from '$lib/ui/sheet/sheet.svelte';

	let { data } = $props();
	// svelte-ignore state_referenced_locally
	const sheet = new Sheet(data.sheet);
	onMount(() => sheet.connect());
	const s = $derived(sheet.state);
</script>

<ReasonHead {s} done={s.closedAt ? `put in ${showDay(s.closedAt)}` : ''} />
<Arriving {sheet} {data} verb="Put in" />
