<script lang="ts">
	import { endedOn } from '$lib/core/sheet/ended';
	import { Button } from 'carbon-components-svelte';
	import { showDay } from '$lib/ui/dates';
	import { add, isZero, mul, roundDown, show, total } from '$lib/core/quantity/quantity';
	import { unitWord } from '$lib/core/quantity/units';
	import { PICK_WORDS, type SheetLine } from '$lib/core/sheet/sheet';
	import Quantity from '$lib/ui/fields/Quantity.svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	import Balance from '$lib/ui/sheet/Balance.svelte';
	import CloseShort from '$lib/ui/sheet/CloseShort.svelte';
	import Weights from '$lib/ui/sheet/Weights.svelte';
	import Booked from '$lib/ui/sheet/Booked.svelte';
	import FootBar from '$lib/ui/sheet/FootBar.svelte';
	import Findings from '$lib/ui/sheet/Findings.svelte';
	import LineFindings from '$lib/ui/sheet/LineFindings.svelte';
	import LineHead from '$lib/ui/sheet/LineHead.svelte';
	import Notice from '$lib/ui/sheet/Notice.svelte';
	import Picks from '$lib/ui/sheet/Picks.svelte';
	import ScanLog from '$lib/ui/scan/ScanLog.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';

	let { data } = $props();
	const sheet = openSheet(() => data, { picks: true });
	const s = $derived(sheet.state);
	const shut = $derived(sheet.shut);
	const input = $derived(s.lines.find((l) => l.role === 'component')!);
	const outs = $derived(s.lines.filter((l) => l.role === 'output'));
	const repack = $derived(s.repack!);
	const record = $derived(`/stock/repacking/${encodeURIComponent(s.code)}/record`);
	const holds = (line: SheetLine) => repack.each.find((e) => e.line === line.no)!.holds;
	/** How many more of a line what is left of each lot would fill, without mixing. */
	const fits = (line: SheetLine) => total(repack.lots.map((l) => roundDown(l.left, holds(line), line.decimals)));

	let folded = $state<Record<number, boolean>>({});
</script>

<svelte:head><title>{s.code} · Repacking · Earmark</title></svelte:head>
<div class="head">
	<h1>Repacking {s.code}</h1>
	<span class="soft"
		>{input.itemName}{s.place ? ` · packs go to ${s.place}` : ''}{s.dueOn
			? ` · due ${showDay(s.dueOn)}`
			: ''}{s.closedAt ? ` · ${endedOn(s, 'done')}` : ''}</span
	>
</div>
{#if s.note}<p class="soft">{s.note}</p>{/if}
<Notice {sheet} />
<Faults faults={sheet.faults} onclose={() => (sheet.faults = [])} />
{#if !s.closedAt}
	<section class="panel">
		<h2>Goes in</h2>
		<LineHead
			line={input}
			word="picked"
			states={PICK_WORDS}
			open={!folded[input.no]}
			ontoggle={() => (folded[input.no] = !folded[input.no])}
		/>
		{#if !folded[input.no]}
			<LineFindings line={input} except={['note']} />
			{#each input.cells as cell (cell.unit ?? '')}<Picks {sheet} line={input} {cell} readonly={shut} />{/each}
		{/if}
	</section>
	<section class="panel">
		<h2>Comes out</h2>
		<ul>
			{#each outs as line (line.id)}
				<li id="line-{line.no}">
					<span class="no">{line.no}</span>
					<span class="what"
						><b>{line.itemName}</b>
						<span class="soft">{line.item} · holds {show(holds(line))} {repack.unit}</span></span
					>
					<Quantity
						label="{line.itemName} now"
						hide
						ch={7}
						value={line.now?.qty ?? line.open}
						decimals={line.decimals}
						disabled={shut}
						onquantity={(qty: string) => sheet.goesNow(line, qty)}
					/>
					<span class="soft"
						>of {show(line.open)}
						{unitWord(line.unit)}{line.done === '0' ? '' : `, ${show(line.done)} booked`} · {show(
							mul(line.entered, holds(line))
						)}
						{repack.unit}</span
					>
					{#if !shut && !isZero(fits(line))}
						<Button
							kind="ghost"
							size="small"
							class="link"
							on:click={() => sheet.goesNow(line, add(line.entered, fits(line)))}
							>{show(fits(line))} more: the rest</Button
						>
					{/if}
					<Findings findings={line.findings.filter((f) => f.level !== 'note' && f.level !== 'missing')} />
				</li>
			{/each}
		</ul>
	</section>
	<Balance {sheet} {repack} {input} readonly={shut} />
{:else}
	{#each s.lines as line (line.id)}<section class="panel">
			<LineHead {line} word={line.role === 'output' ? 'packed' : 'used'} open={false} ontoggle={() => {}} />
		</section>{/each}
{/if}
{#if s.scans.length && !s.closedAt}<ScanLog scans={s.scans} onundo={data.may ? sheet.undoScan : undefined} />{/if}
<CloseShort {sheet} may={data.mayClose} />
<Weights {sheet} />
<Booked {sheet} mayUndo={data.mayUndo} labels={data.may} papers={record} paper="Record (PDF)" />
{#if !s.closedAt}<FootBar {sheet} verb="Repack" may={data.may} ongo={(no) => (folded[no] = false)} />{/if}

<style>
	section {
		margin-bottom: 0.75rem;
	}
	h2 {
		margin: 0;
		padding: 0.5rem 0.75rem 0;
		font-size: 1rem;
	}
	ul {
		list-style: none;
		margin: 0;
		padding: 0.25rem 0 0.5rem;
	}
	li {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 0.75rem;
		align-items: center;
		padding: 0.25rem 0.75rem;
		scroll-margin-top: 60px;
	}
	.no {
		width: 2rem;
		color: var(--ink-soft);
	}
	.what {
		min-width: 14rem;
	}
</style>
