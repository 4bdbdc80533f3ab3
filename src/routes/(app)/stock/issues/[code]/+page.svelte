<script lang="ts">
	import { onMount } from 'svelte';
	import { showDay } from '$lib/core/dates/dates';
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
</script>

<svelte:head><title>{s.code} · Issues to jobs · Earmark</title></svelte:head>
<div class="head">
	<h1>Issue {s.code} to {s.job?.name}</h1>
	<span class="soft"
		>{s.partnerName ? `for ${s.partnerName}` : 'own use'}{s.dueOn ? ` · needed by ${showDay(s.dueOn)}` : ''}{s.place
			? ` · from ${s.place}`
			: ''}{s.closedAt ? ` · issued ${showDay(s.closedAt)}` : ''}</span
	>
</div>
{#if s.note}<p class="soft">{s.note}</p>{/if}
<SheetBody {sheet} {data} verb="Issue" word={(line) => (line.open === '0' ? 'issued' : 'picked')} foldsComplete>
	{#snippet body(line)}
		<LinePicks {sheet} {line} readonly={shut} />
	{/snippet}
</SheetBody>
