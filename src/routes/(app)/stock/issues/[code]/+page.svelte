<script lang="ts">
	import { onMount } from 'svelte';
	import { showDay } from '$lib/core/dates/dates';
	import Faults from '$lib/ui/shell/Faults.svelte';
	import CloseShort from '$lib/ui/sheet/CloseShort.svelte';
	import Weights from '$lib/ui/sheet/Weights.svelte';
	import Booked from '$lib/ui/sheet/Booked.svelte';
	import FootBar from '$lib/ui/sheet/FootBar.svelte';
	import LineFindings from '$lib/ui/sheet/LineFindings.svelte';
	import LineHead from '$lib/ui/sheet/LineHead.svelte';
	import Notice from '$lib/ui/sheet/Notice.svelte';
	import Picks from '$lib/ui/sheet/Picks.svelte';
	import ScanLog from '$lib/ui/scan/ScanLog.svelte';
	import { takePicks } from '$lib/ui/sheet/scanned';
	import { Sheet } from '$lib/ui/sheet/sheet.svelte';

	let { data } = $props();
	// svelte-ignore state_referenced_locally
	const sheet = new Sheet(data.sheet);
	onMount(() => sheet.connect());
	onMount(() => takePicks(sheet, () => !shut));
	const s = $derived(sheet.state);
	const shut = $derived(!data.may || !!s.closedAt);
	let folded = $state<Record<number, boolean>>({});
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
<Notice {sheet} />
<Faults faults={sheet.faults} onclose={() => (sheet.faults = [])} />
{#each s.lines as line (line.id)}
	<section class="panel">
		<LineHead
			{line}
			word={line.open === '0' ? 'issued' : 'picked'}
			open={!folded[line.no]}
			ontoggle={() => (folded[line.no] = !folded[line.no])}
		/>
		{#if !folded[line.no] && line.open !== '0'}
			<LineFindings {line} except={['note']} />
			{#each line.cells as cell (cell.unit ?? '')}<Picks {sheet} {line} {cell} readonly={shut} />{/each}
		{/if}
	</section>
{/each}
{#if s.scans.length && !s.closedAt}<ScanLog scans={s.scans} onundo={sheet.undoScan} />{/if}
<CloseShort {sheet} may={data.mayClose} />
<Weights {sheet} />
<Booked {sheet} mayUndo={data.mayUndo} />
{#if !s.closedAt}<FootBar {sheet} verb="Issue" may={data.may} ongo={(no) => (folded[no] = false)} />{/if}

<style>
	section {
		margin-bottom: 0.75rem;
	}
</style>
