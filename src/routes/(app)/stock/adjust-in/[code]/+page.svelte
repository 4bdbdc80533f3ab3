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
	import NumberRows from '$lib/ui/sheet/NumberRows.svelte';
	import Notice from '$lib/ui/sheet/Notice.svelte';
	import ScanLog from '$lib/ui/scan/ScanLog.svelte';
	import { takeScans } from '$lib/ui/scan/scanner';
	import { handScan, scanned } from '$lib/ui/sheet/scanned';
	import { Sheet } from '$lib/ui/sheet/sheet.svelte';

	let { data } = $props();
	// svelte-ignore state_referenced_locally
	const sheet = new Sheet(data.sheet);
	onMount(() => sheet.connect());
	const rows: Record<string, ReturnType<typeof NumberRows>> = $state({});
	onMount(() => takeScans((text, into) => !shut && scanned(sheet, text, into, (line) => rows[line])));
	const s = $derived(sheet.state);
	const shut = $derived(!data.may || !!s.closedAt);
	const firstOpen = $derived(s.lines.find((l) => l.open !== '0')?.no ?? 1);
	let folded = $state<Record<number, boolean>>({});
</script>

<AdjustHead {s} done={s.closedAt ? `put in ${showDay(s.closedAt)}` : ''} />
<Notice {sheet} />
<Faults faults={sheet.faults} onclose={() => (sheet.faults = [])} />
{#each s.lines as line (line.id)}
	<section class="panel">
		<LineHead
			{line}
			word={line.tracking === 'none' ? 'entered' : 'numbered'}
			open={!folded[line.no]}
			ontoggle={() => (folded[line.no] = !folded[line.no])}
		/>
		{#if !folded[line.no]}
			<NumberRows
				bind:this={rows[line.id]}
				onscan={(text, at) => handScan(sheet, text, at, null, (l) => rows[l])}
				{sheet}
				{line}
				first={line.no === firstOpen}
				bins="bins-{line.no}"
				readonly={shut || (line.open === '0' && !line.rows.length)}
			/>
			<datalist id="bins-{line.no}"
				>{#each [...line.bins, ...data.bins.filter((b) => !line.bins.includes(b))] as b (b)}<option value={b}
						>{line.bins.includes(b) ? 'holds it already' : ''}</option
					>{/each}</datalist
			>
			<LineFindings {line} except={['missing', 'note']} />
		{/if}
	</section>
{/each}
{#if s.scans.length && !s.closedAt}<ScanLog scans={s.scans} onundo={sheet.undoScan} />{/if}
<CloseShort {sheet} may={data.mayClose} />
<Booked {sheet} mayUndo={data.mayUndo} labels />
{#if !s.closedAt}<FootBar {sheet} verb="Put in" may={data.may} ongo={(no) => (folded[no] = false)} />{/if}

<style>
	section {
		margin-bottom: 0.75rem;
	}
</style>
