<script lang="ts">
	import { onMount } from 'svelte';
	import { showDay } from '$lib/core/dates/dates';
	import LinePicks from '$lib/ui/sheet/LinePicks.svelte';
	import ReasonHead from '$lib/ui/sheet/ReasonHead.svelte';
	import { takePicks } from '$lib/ui/sheet/scanned';
	import SheetBody from '$lib/ui/sheet/SheetBody.svelte';
	import { Sheet } from '$lib/ui/sheet/sheet.svelte';

	let { data } = $props();
	// svelte-ignore state_referenced_locally
	const sheet = new Sheet(data.sheet);
	onMount(() => sheet.connect());
	onMount(() => takePicks(sheet, () => !shut));
	const s = $derived(sheet.state);
	const shut = $derived(!data.may || !!s.closedAt);
</script>

<ReasonHead {s} done={s.closedAt ? `sent back ${showDay(s.closedAt)}` : ''} />
<SheetBody
	{sheet}
	{data}
	verb="Send back"
	word={(line) => (line.open !== '0' ? 'named' : 'sent back')}
	papers="/orders/{encodeURIComponent(s.code)}/packing-list"
>
	{#snippet body(line)}
		<LinePicks {sheet} {line} readonly={shut} promises={false} suggests={false} called="There is" />
	{/snippet}
</SheetBody>
