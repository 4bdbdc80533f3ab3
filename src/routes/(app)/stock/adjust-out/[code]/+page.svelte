<script lang="ts">
	import { onMount } from 'svelte';
	import { showDay } from '$lib/core/dates/dates';
	import ReasonHead from '$lib/ui/sheet/ReasonHead.svelte';
	import LinePicks from '$lib/ui/sheet/LinePicks.svelte';
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
	const scrap = $derived(s.reason?.act === 'scrap');
</script>

<ReasonHead {s} done={s.closedAt ? `${scrap ? 'scrapped' : 'taken out'} ${showDay(s.closedAt)}` : ''} />
{#if !shut && s.lines.some((l) => l.tracking !== 'none')}
	<p class="soft">
		Which number it is, nobody can suggest: scan it, or choose it from what is there. It may be held, expired or
		promised.
	</p>
{/if}
<SheetBody
	{sheet}
	{data}
	verb={scrap ? 'Scrap' : 'Take out'}
	word={(line) => (line.open !== '0' ? 'named' : scrap ? 'scrapped' : 'taken out')}
	foldsComplete
>
	{#snippet body(line)}
		<LinePicks {sheet} {line} readonly={shut} promises={false} suggests={false} called="There is" />
	{/snippet}
</SheetBody>
