<script lang="ts">
	import { showDay } from '$lib/ui/dates';
	import LinePicks from '$lib/ui/sheet/LinePicks.svelte';
	import ReasonHead from '$lib/ui/sheet/ReasonHead.svelte';
	import SheetBody from '$lib/ui/sheet/SheetBody.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';

	let { data } = $props();
	const sheet = openSheet(() => data, { picks: true });
	const s = $derived(sheet.state);
	const shut = $derived(sheet.shut);
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
