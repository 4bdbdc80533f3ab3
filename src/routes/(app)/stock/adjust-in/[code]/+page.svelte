<script lang="ts">
	import { onMount } from 'svelte';
	import { showDay } from '$lib/core/dates/dates';
	import AdjustHead from '$lib/ui/sheet/AdjustHead.svelte';
	import LineFindings from '$lib/ui/sheet/LineFindings.svelte';
	import NumberRows from '$lib/ui/sheet/NumberRows.svelte';
	import { takeScans } from '$lib/ui/scan/scanner';
	import { handScan, scanned } from '$lib/ui/sheet/scanned';
	import SheetBody from '$lib/ui/sheet/SheetBody.svelte';
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
</script>

<AdjustHead {s} done={s.closedAt ? `put in ${showDay(s.closedAt)}` : ''} />
<SheetBody
	{sheet}
	{data}
	verb="Put in"
	word={(line) => (line.tracking === 'none' ? 'entered' : 'numbered')}
	foldsMany
	labels
>
	{#snippet body(line)}
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
	{/snippet}
</SheetBody>
