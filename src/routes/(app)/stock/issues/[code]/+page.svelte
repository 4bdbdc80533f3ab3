<script lang="ts">
	import { endedOn } from '$lib/core/sheet/ended';
	import { showDay } from '$lib/ui/dates';
	import LinePicks from '$lib/ui/sheet/LinePicks.svelte';
	import SheetBody from '$lib/ui/sheet/SheetBody.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';

	let { data } = $props();
	const sheet = openSheet(() => data, { picks: true });
	const s = $derived(sheet.state);
	const shut = $derived(sheet.shut);
</script>

<svelte:head><title>{s.code} · Issues to jobs · Earmark</title></svelte:head>
<div class="head">
	<h1>Issue {s.code} to {s.job?.name}</h1>
	<span class="soft"
		>{s.partnerName ? `for ${s.partnerName}` : 'own use'}{s.dueOn ? ` · needed by ${showDay(s.dueOn)}` : ''}{s.place
			? ` · from ${s.place}`
			: ''}{s.closedAt ? ` · ${endedOn(s, 'issued')}` : ''}</span
	>
</div>
{#if s.note}<p class="soft">{s.note}</p>{/if}
<SheetBody {sheet} {data} verb="Issue" word={(line) => (line.open === '0' ? 'issued' : 'picked')} foldsComplete>
	{#snippet body(line)}
		<LinePicks {sheet} {line} readonly={shut} />
	{/snippet}
</SheetBody>
