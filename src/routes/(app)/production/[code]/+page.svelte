<script lang="ts">
	import { endedOn } from '$lib/core/sheet/ended';
	import { Button, ContentSwitcher, Switch } from 'carbon-components-svelte';
	import { onMount } from 'svelte';
	import { showDay } from '$lib/ui/dates';
	import { show } from '$lib/core/quantity/quantity';
	import Faults from '$lib/ui/shell/Faults.svelte';
	import AlsoOut from '$lib/ui/sheet/AlsoOut.svelte';
	import CloseShort from '$lib/ui/sheet/CloseShort.svelte';
	import Weights from '$lib/ui/sheet/Weights.svelte';
	import Booked from '$lib/ui/sheet/Booked.svelte';
	import FootBar from '$lib/ui/sheet/FootBar.svelte';
	import LineFindings from '$lib/ui/sheet/LineFindings.svelte';
	import LineHead from '$lib/ui/sheet/LineHead.svelte';
	import Notice from '$lib/ui/sheet/Notice.svelte';
	import NumberRows from '$lib/ui/sheet/NumberRows.svelte';
	import Picks from '$lib/ui/sheet/Picks.svelte';
	import UnitGrid from '$lib/ui/sheet/UnitGrid.svelte';
	import ScanLog from '$lib/ui/scan/ScanLog.svelte';
	import { takeScans } from '$lib/ui/scan/scanner';
	import { handScan, scanned } from '$lib/ui/sheet/scanned';
	import Tag from '$lib/ui/tag/Tag.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';

	let { data } = $props();
	const sheet = openSheet(() => data);
	let numbers = $state<ReturnType<typeof NumberRows>>();
	onMount(() => takeScans((text, into) => !shut && scanned(sheet, text, into, () => numbers)));
	const s = $derived(sheet.state);
	const shut = $derived(sheet.shut);
	const output = $derived(s.lines.find((l) => l.role === 'output')!);
	const parts = $derived(s.lines.filter((l) => l.role === 'component'));
	const beside = $derived(s.lines.filter((l) => l.role === 'byproduct'));
	let folded = $state<Record<number, boolean>>({});
	const modes = [
		['both', 'Use and output'],
		['use', 'Use only'],
		['output', 'Output only']
	] as const;
	/** of parts what was chosen is meant, whether it was scanned or not */
	const PART_WORDS = { suggested: 'suggested', chosen: 'chosen', picked: 'chosen' };
	const verb = $derived({ both: 'Complete', use: 'Record use', output: 'Record output' }[sheet.mode]);
	const finish = () => sheet.put(s.started.map((serial) => ({ lineId: output.id, data: { serial, count: 1 } })));
</script>

<svelte:head><title>{s.code} · Production · Earmark</title></svelte:head>
<div class="head">
	<h1>{s.code}: {show(output.qty)} {output.itemName}</h1>
	<span class="soft"
		>{s.unitRuns ? 'made one by one' : 'made as one batch'}{s.dueOn ? ` · due ${showDay(s.dueOn)}` : ''} · to {s.place}{s.closedAt
			? ` · ${endedOn(s, 'complete')}`
			: ''}</span
	>
	{#if !shut}
		<div class="push">
			<ContentSwitcher
				size="sm"
				aria-label="What is recorded now"
				selectedIndex={modes.findIndex(([mode]) => mode === sheet.mode)}
				on:change={(e) => sheet.setMode(modes[e.detail][0])}
			>
				{#each modes as [mode, label] (mode)}<Switch text={label} />{/each}
			</ContentSwitcher>
		</div>
	{/if}
</div>
<p class="floor">
	<a href="/production/{encodeURIComponent(s.code)}/cards">Work cards</a>
	{#if !shut}· <a href="/production/shortage?order={encodeURIComponent(s.code)}">Shortage</a>{/if}
	{#if s.unitRuns}{#if !shut}· <a href="/production/{encodeURIComponent(s.code)}/pairs">Parts by hand</a>{/if}
		{#if s.atStations}· <a href="/production/review?order={encodeURIComponent(s.code)}"
				>{s.atStations} {s.atStations === 1 ? 'unit is' : 'units are'} at stations</a
			>{/if}{/if}
</p>
{#if s.note}<p class="soft">{s.note}</p>{/if}
<Notice {sheet} />
<Faults faults={sheet.faults} onclose={() => (sheet.faults = [])} />
{#if s.started.length && !shut}
	<p class="started">
		Parts recorded, not finished yet: {#each s.started.slice(0, 8) as n (n)}<Tag
				kind="serial"
				number={n}
			/>&nbsp;{/each}{s.started.length > 8 ? `and ${s.started.length - 8} more` : ''}
		{#if sheet.mode === 'output' && !output.rows.length}<Button kind="ghost" size="small" class="link" on:click={finish}
				>Finish {s.started.length === 1 ? 'it' : 'all of them'}</Button
			>{/if}
	</p>
{/if}
{#if !s.closedAt}
	<section class="panel">
		<LineHead
			line={output}
			word="entered"
			open={!folded[output.no]}
			ontoggle={() => (folded[output.no] = !folded[output.no])}
		/>
		{#if !folded[output.no] && (sheet.mode !== 'use' || s.unitRuns)}
			<NumberRows
				bind:this={numbers}
				onscan={(text, at) => handScan(sheet, text, at, null, () => numbers)}
				{sheet}
				line={output}
				bins="bins-made"
				output
				first
				readonly={shut}
			/>
			<datalist id="bins-made"
				>{#each data.bins as b (b)}<option value={b}></option>{/each}</datalist
			>
			<LineFindings line={output} except={['missing', 'note']} />
		{/if}
	</section>
	{#if sheet.mode !== 'use' && (beside.length || !s.unitRuns)}
		{#if beside.length}<h2>What comes out beside it</h2>{/if}
		{#each beside as line (line.id)}
			<section class="panel">
				<LineHead
					{line}
					word="came out"
					open={!folded[line.no]}
					ontoggle={() => (folded[line.no] = !folded[line.no])}
				/>
				{#if !folded[line.no]}
					<NumberRows
						onscan={(text, at) => handScan(sheet, text, at, line.id, () => undefined)}
						{sheet}
						{line}
						bins="bins-made"
						output
						readonly={shut}
					/>
					<LineFindings {line} except={['missing', 'note']} />
				{/if}
			</section>
		{/each}
		{#if !shut && !s.unitRuns}<p class="floor"><AlsoOut {sheet} items={data.items} /></p>{/if}
	{/if}
	{#if sheet.mode !== 'output'}
		<h2>What goes in</h2>
		{#if s.unitRuns}
			<section class="panel">
				{#if output.rows.length}<UnitGrid {sheet} {parts} readonly={shut} />{:else}<p class="hint soft">
						Enter the numbers of what is made above; each gets its parts here, one row a piece.
					</p>{/if}
			</section>
		{:else}
			{#each parts as line (line.id)}
				<section class="panel">
					<LineHead
						{line}
						word="used"
						states={PART_WORDS}
						open={!folded[line.no]}
						ontoggle={() => (folded[line.no] = !folded[line.no])}
					/>
					{#if !folded[line.no]}
						<LineFindings {line} except={['note']} />
						{#each line.cells as cell (cell.unit ?? '')}<Picks {sheet} {line} {cell} readonly={shut} />{/each}
					{/if}
				</section>
			{/each}
		{/if}
	{/if}
{/if}
{#if s.scans.length && !s.closedAt}<ScanLog scans={s.scans} onundo={data.may ? sheet.undoScan : undefined} />{/if}
<CloseShort {sheet} may={data.mayClose} mayGiveBack={data.may} bins={data.bins} />
<Weights {sheet} />
<Booked {sheet} mayUndo={data.mayUndo} labels />
{#if !s.closedAt}<FootBar {sheet} {verb} may={data.may} ongo={(no) => (folded[no] = false)} />{/if}

<style>
	section {
		margin-bottom: 0.75rem;
	}
	.hint {
		padding: 0.75rem;
		margin: 0;
	}
	.floor {
		margin: 0 0 0.5rem;
	}
	.started {
		margin: 0 0 0.75rem;
	}
</style>
