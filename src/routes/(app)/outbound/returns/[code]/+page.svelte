<script lang="ts">
	import { endedOn } from '$lib/core/sheet/ended';
	import LinePicks from '$lib/ui/sheet/LinePicks.svelte';
	import ReasonHead from '$lib/ui/sheet/ReasonHead.svelte';
	import SheetBody from '$lib/ui/sheet/SheetBody.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';

	let { data } = $props();
	const sheet = openSheet(() => data, { picks: true });
	const s = $derived(sheet.state);
	const shut = $derived(sheet.shut);
</script>

<ReasonHead {s} done={endedOn(s, 'sent back')} />
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
