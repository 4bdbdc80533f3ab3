<script lang="ts">
	import { endedOn } from '$lib/core/sheet/ended';
	import ReasonHead from '$lib/ui/sheet/ReasonHead.svelte';
	import LinePicks from '$lib/ui/sheet/LinePicks.svelte';
	import SheetBody from '$lib/ui/sheet/SheetBody.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';

	let { data } = $props();
	const sheet = openSheet(() => data, { picks: true });
	const s = $derived(sheet.state);
	const shut = $derived(sheet.shut);
	const scrap = $derived(s.reason?.act === 'scrap');
</script>

<ReasonHead {s} done={endedOn(s, scrap ? 'scrapped' : 'taken out')} />
{#if !shut && s.lines.some((l) => l.tracking !== 'none')}
	<p class="soft">
		Which number it is, nobody can suggest: scan it, or choose it from what is there. It may be held, expired or
		promised.
	</p>
{/if}
<SheetBody
	{sheet}
	{data}
	verb={scrap ? 'Scrap' : 'Book adjustment'}
	word={(line) => (line.open !== '0' ? 'named' : scrap ? 'scrapped' : 'taken out')}
	foldsComplete
>
	{#snippet body(line)}
		<LinePicks {sheet} {line} readonly={shut} promises={false} suggests={false} called="There is" />
	{/snippet}
</SheetBody>
