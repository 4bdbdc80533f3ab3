<script lang="ts">
	import { onMount } from 'svelte';
	import { showDay } from '$lib/core/dates/dates';
	import Faults from '$lib/ui/shell/Faults.svelte';
	import AdjustHead from '$lib/ui/sheet/AdjustHead.svelte';
	import CloseShort from '$lib/ui/sheet/CloseShort.svelte';
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
	const scrap = $derived(s.reason?.act === 'scrap');
	let folded = $state<Record<number, boolean>>({});
</script>

<AdjustHead {s} done={s.closedAt ? `${scrap ? 'scrapped' : 'taken out'} ${showDay(s.closedAt)}` : ''} />
<Notice {sheet} />
<Faults faults={sheet.faults} onclose={() => (sheet.faults = [])} />
{#if !shut && s.lines.some((l) => l.tracking !== 'none')}
	<p class="soft">
		Which number it is, nobody can suggest: scan it, or choose it from what is there. It may be held, expired or
		promised.
	</p>
{/if}
{#each s.lines as line (line.id)}
	<section class="panel">
		<LineHead
			{line}
			word={line.open === '0' ? (scrap ? 'scrapped' : 'taken out') : 'named'}
			open={!folded[line.no]}
			ontoggle={() => (folded[line.no] = !folded[line.no])}
		/>
		{#if !folded[line.no] && line.open !== '0'}
			<LineFindings {line} except={['note']} />
			{#each line.cells as cell (cell.unit ?? '')}<Picks
					{sheet}
					{line}
					{cell}
					readonly={shut}
					promises={false}
					called="There is"
				/>{/each}
		{/if}
	</section>
{/each}
{#if s.scans.length && !s.closedAt}<ScanLog scans={s.scans} onundo={sheet.undoScan} />{/if}
<CloseShort {sheet} may={data.mayClose} />
<Booked {sheet} mayUndo={data.mayUndo} />
{#if !s.closedAt}<FootBar
		{sheet}
		verb={scrap ? 'Scrap' : 'Take out'}
		may={data.may}
		ongo={(no) => (folded[no] = false)}
	/>{/if}

<style>
	section {
		margin-bottom: 0.75rem;
	}
</style>
