<script lang="ts">
	import { endedOn } from '$lib/core/sheet/ended';
	import { Button } from 'carbon-components-svelte';
	import { showDay } from '$lib/ui/dates';
	import { PICK_WORDS } from '$lib/core/sheet/sheet';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import Question from '$lib/ui/shell/Question.svelte';
	import LinePicks from '$lib/ui/sheet/LinePicks.svelte';
	import Sides from '$lib/ui/sheet/Sides.svelte';
	import SheetBody from '$lib/ui/sheet/SheetBody.svelte';
	import { openSheet } from '$lib/ui/sheet/open.svelte';

	/** What somebody says has arrived is here; the rest is only expected. */
	const ARRIVALS = { suggested: 'expected', chosen: 'arrived', picked: 'arrived' } as const;
	let { data } = $props();
	const sheet = openSheet(() => data, {
		picks: true,
		mode: (s) => (s.transfer!.side === 'arrives' ? 'output' : 'use')
	});
	const s = $derived(sheet.state);
	const papers = $derived(`/orders/${encodeURIComponent(s.code)}/packing-list`);
	const way = $derived(s.transfer!);
	const arrives = $derived(way.side === 'arrives');
	const shut = $derived(sheet.shut);

	let asking = $state(false);
	let became = $state('back');
	let reason = $state('');
	const ends = $derived<(readonly [string, string])[]>([
		['back', 'back where it came from'],
		...(data.mayLose ? [['lost', 'lost: adjusted away'] as const] : [])
	]);
</script>

<svelte:head><title>{s.code} · Transfers · Earmark</title></svelte:head>
<div class="head">
	<h1>Transfer {s.code} to {way.to}</h1>
	<span class="soft"
		>{s.place ? `from ${s.place}` : 'from wherever it is'}{s.dueOn ? ` · needed by ${showDay(s.dueOn)}` : ''}{s.closedAt
			? ` · ${endedOn(s, 'arrived')}`
			: ''}</span
	>
	{#if !shut}
		<div class="push acts">
			{#if !arrives}<a href={papers}>Print the pick list (PDF)</a>{/if}
			<Sides {sheet} words={['Leaving', 'Arriving']} second={arrives} />
		</div>
	{/if}
</div>
{#if s.note}<p class="soft">{s.note}</p>{/if}
{#if way.inTransit}
	<p class="way">
		<b>{way.inTransit} {way.inTransit === 1 ? 'number' : 'numbers'} in transit.</b>
		{#if !shut}<Button kind="ghost" size="small" class="link" on:click={() => (asking = true)}
				>What did not arrive…</Button
			>{/if}
	</p>
{/if}
<SheetBody
	{sheet}
	{data}
	verb={arrives ? 'Receive' : 'Send'}
	word={(line) => (arrives ? 'arrived' : line.open === '0' ? 'left' : 'picked')}
	states={arrives ? ARRIVALS : PICK_WORDS}
	foldsComplete
	{papers}
>
	{#snippet body(line)}
		<LinePicks
			{sheet}
			{line}
			readonly={shut}
			promises={false}
			{...arrives ? { words: ARRIVALS, confirm: 'Arrived' } : {}}
		/>
	{/snippet}
</SheetBody>
{#if asking}
	<Question
		title="What did not arrive: {s.code}"
		verb="Record it"
		disabled={!reason.trim()}
		ondo={async () => {
			// Refused, the reason stays for the next try.
			if (await sheet.endTransit(became, reason.trim())) reason = '';
		}}
		onleave={() => (asking = false)}
	>
		<Choose
			label={way.inTransit === 1 ? 'The number in transit is' : `The ${way.inTransit} numbers in transit are`}
			bind:value={became}
			options={ends}
		/>
		<Text label="Why, kept in the ledger" bind:value={reason} maxlength="1000" />
	</Question>
{/if}

<style>
	.acts {
		display: flex;
		gap: 1.25rem;
		align-items: center;
	}
	.way {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 1.5rem;
		align-items: center;
		margin: 0 0 0.5rem;
	}
</style>
