<script lang="ts">
	import { endedOn } from '$lib/core/sheet/ended';
	import { unitWord } from '$lib/core/quantity/units';
	import Quantity from '$lib/ui/fields/Quantity.svelte';
	import { Button } from 'carbon-components-svelte';
	import type { Mode, SheetState } from '$lib/core/sheet/sheet';
	import { showDay } from '$lib/ui/dates';
	import Findings from '$lib/ui/sheet/Findings.svelte';
	import NumberRows from '$lib/ui/sheet/NumberRows.svelte';
	import Picks from '$lib/ui/sheet/Picks.svelte';
	import Sides from '$lib/ui/sheet/Sides.svelte';
	import SheetBody from '$lib/ui/sheet/SheetBody.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';

	let { data } = $props();
	/** What is recorded now: it stays what it is until somebody says otherwise. */
	const sideMode = (s: SheetState): Mode => (!s.staging ? 'both' : s.staging.side === 'picks' ? 'use' : 'output');
	const sheet = openSheet(() => data, { picks: true, mode: sideMode });
	const s = $derived(sheet.state);
	const shut = $derived(sheet.shut);
	const picks = $derived(s.staging?.side === 'picks');
	const papers = $derived(`/orders/${encodeURIComponent(s.code)}/packing-list`);
</script>

<svelte:head><title>{s.code} · Outbound · Earmark</title></svelte:head>
<div class="head">
	<h1>Order {s.code}</h1>
	<span class="soft"
		>{s.partnerName}{s.dueOn ? ` · to ship by ${showDay(s.dueOn)}` : ''}{s.place ? ` · from ${s.place}` : ''}{s.closedAt
			? ` · ${endedOn(s, 'shipped')}`
			: ''}</span
	>
	{#if s.staging && !shut}
		<div class="push">
			<Sides {sheet} words={['Picking', 'Shipping']} second={!picks} />
		</div>
	{/if}
	{#if !s.closedAt && s.sale?.others.length}<a
			class={s.staging ? '' : 'push'}
			href="/outbound/{encodeURIComponent(s.code)}/together"
			>Ship together with {s.sale.others.length === 1 ? s.sale.others[0] : `${s.sale.others.length} others`}…</a
		>{/if}
	{#if !s.closedAt}<a
			class={s.staging || s.sale?.others.length ? '' : 'push'}
			href="/outbound/{encodeURIComponent(s.code)}/pick">Pick list</a
		><a href={papers}>Print it (PDF)</a>{/if}
</div>
{#if s.note}<p class="soft">{s.note}</p>{/if}
{#if s.staging?.waits}
	<p class="waits">
		<b>{s.staging.waits} {s.staging.waits === 1 ? 'number waits' : 'numbers wait'} at {s.staging.at}.</b>
		{#if !shut}<Button kind="ghost" size="small" class="link" on:click={() => sheet.putBack()}
				>Put back what was picked</Button
			>{/if}
	</p>
{/if}
<SheetBody
	{sheet}
	{data}
	verb={picks ? `To ${s.staging!.at}` : 'Ship'}
	word={(line) => (line.open === '0' && !picks ? 'shipped' : 'picked')}
	foldsComplete
	{papers}
>
	{#snippet body(line)}
		{#if !shut && !picks}
			<div class="now">
				<Quantity
					label="Ship now, {unitWord(line.unit)}"
					value={line.now?.qty ?? line.open}
					decimals={line.decimals}
					ch={9}
					onquantity={(qty) => sheet.goesNow(line, qty)}
				/>
				<span class="said"><Findings findings={line.findings} good="all available" /></span>
			</div>
		{/if}
		{#if line.toNumber}
			<h2 class="late">Serials, given now to the {line.toNumber} that have none</h2>
			<NumberRows
				{sheet}
				line={{
					...line,
					tracking: 'serial',
					expiry: 'not asked',
					open: line.toNumber,
					entered: String(line.rows.reduce((n, r) => n + r.count, 0))
				}}
				output
				readonly={shut}
			/>
		{/if}
		{#each line.cells as cell (cell.unit ?? '')}<Picks
				{sheet}
				{line}
				{cell}
				readonly={shut}
				targets={picks ? s.staging!.bins : []}
			/>{/each}
	{/snippet}
</SheetBody>

<style>
	.waits {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 1.5rem;
		align-items: center;
		margin: 0 0 0.5rem;
	}
	.late {
		margin: 0.5rem 0.75rem 0;
		font-size: 0.875rem;
	}
	.now {
		display: flex;
		gap: 1rem;
		align-items: flex-end;
		padding: 0.5rem 0.75rem;
	}
	.said {
		padding-bottom: 0.4rem;
		font-size: 0.8125rem;
	}
</style>
