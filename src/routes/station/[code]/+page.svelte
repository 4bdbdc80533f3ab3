<script lang="ts">
	// For a scanner alone: a card, its parts, the next card. Big enough to be read from an arm's length, in gloves.
	import { Button } from 'carbon-components-svelte';
	import { onMount } from 'svelte';
	import Checkmark from 'carbon-icons-svelte/lib/CheckmarkFilled.svelte';
	import Circle from 'carbon-icons-svelte/lib/CircleDash.svelte';
	import { amount } from '$lib/core/quantity/quantity';
	import Quantity from '$lib/ui/fields/Quantity.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import Scanner from '$lib/ui/devices/Scanner.svelte';
	import { takeScans } from '$lib/ui/scan/scanner';
	import { StationState } from '$lib/ui/station/station.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data } = $props();
	// svelte-ignore state_referenced_locally
	const s = new StationState(data.station.code);
	onMount(() => s.connect());
	onMount(() => takeScans((text) => (s.scan(text), true)));
	let scanner = $state(false);
	let typed = $state('');
	const shown = $derived(s.shown);
	const asked = $derived(shown?.slots.filter((x) => !x.plain) ?? []);
	const plain = $derived(shown?.slots.filter((x) => x.plain) ?? []);
	const missing = $derived(asked.filter((x) => x.left !== '0'));
	const full = $derived(asked.filter((x) => x.left === '0').length);
	const next = $derived(
		!shown
			? 'Scan the card of a unit'
			: shown.state === 'booked'
				? 'Done. Scan the next card'
				: shown.state === 'ready'
					? shown.review
						? 'Waits for its review. Scan the next card'
						: 'All parts are in. Scan the next card'
					: missing.length === 1
						? `Scan ${missing[0].itemName}`
						: 'Scan a part'
	);
	/** A lot may be taken in another quantity than what is missing. */
	const counted = $derived(asked.some((x) => x.asks === 'lot' && x.left !== '0' && x.per !== '1'));
	function type(e: SubmitEvent) {
		e.preventDefault();
		s.scan(typed, true);
		typed = '';
	}
</script>

<svelte:head><title>{data.station.name} · Station · Earmark</title></svelte:head>
<header>
	<strong>{data.station.name}</strong>
	<span class="where"
		><span class="mono">{data.station.place}</span> · {data.station.review ? 'waits for a review' : 'booked at once'} ·
		<a href="/station/{encodeURIComponent(data.station.code)}/floor">move units on</a></span
	>
	<span class="who">{data.person.name}</span>
	<Button
		kind="ghost"
		size="small"
		class="link out device"
		aria-expanded={scanner}
		on:click={() => (scanner = !scanner)}>Scanner</Button
	>
	<a class="out" href="/station">Leave</a>
</header>
{#if scanner}<Scanner />{/if}
<main id="work" class:scanner tabindex="-1">
	{#if s.waiting}<p class="waits" role="alert">
			{s.waiting}{s.queue.length ? ` ${s.queue.length} ${s.queue.length === 1 ? 'scan waits' : 'scans wait'}.` : ''}
		</p>{/if}
	<section class="said" class:good={s.last?.taken} class:bad={s.last && !s.last.taken} aria-live="assertive">
		<p class="next">{next}</p>
		{#if s.last}<p>{s.last.said}</p>
			{#each s.last.notes as note (note)}<p class="note">{note}</p>{/each}{/if}
	</section>
	{#if s.bin}<p class="bin">The next part is taken from <span class="mono">{s.bin}</span></p>{/if}
	{#if shown}
		<section class="unit">
			<h1>
				{#if shown.serial}<span class="serial mono">{shown.serial}</span>{:else}<span class="serial mono"
						>{shown.order}</span
					>{/if}
				<span class="what">{shown.itemName}</span>
			</h1>
			<p class="soft">
				{#if shown.serial}order <span class="mono">{shown.order}</span>{#if shown.done !== null}
						· {shown.done} of {shown.planned} have all their parts{/if}{:else}parts for the whole order, booked at the
					desk{/if}
			</p>
			{#if shown.said}<p class="why">{shown.state === 'back' ? 'Sent back: ' : ''}{shown.said}</p>{/if}
			<ol aria-label="Parts, {full} of {asked.length} in">
				{#each asked as slot (slot.lineId)}
					<li class:full={slot.left === '0'}>
						{#if slot.left === '0'}<Checkmark size={32} />{:else}<Circle size={32} />{/if}
						<div>
							<span class="part">{slot.itemName}</span>
							{#if slot.per !== '1'}<span class="many"
									>{amount(slot.in, slot.unit)} of {amount(slot.per, slot.unit)}</span
								>{/if}
							{#if slot.left !== '0'}<span class="soft">scan its {slot.asks}</span>{/if}
							{#each slot.puts as put (put.id)}
								<span class="put"
									><Tag
										kind={put.kind}
										number={put.number}
										qty={slot.per === '1' ? null : amount(put.qty, slot.unit)}
									/>
									{#if shown.state !== 'booked'}<Button
											kind="ghost"
											size="small"
											class="link"
											on:click={() => s.undo(put.id)}>Take out<span class="visually-hidden"> {put.number}</span></Button
										>{/if}</span
								>
							{/each}
						</div>
					</li>
				{/each}
			</ol>
			{#if plain.length}<p class="soft">
					Without a scan, from <span class="mono">{shown.place}</span>: {plain
						.map((x) => `${amount(x.per, x.unit)} ${x.itemName}`)
						.join(', ')}
				</p>{/if}
		</section>
	{/if}
	<section class="acts">
		{#if counted}<Quantity label="Of the next lot" placeholder="what is missing" ch={16} bind:value={s.qty} />{/if}
		{#if shown && shown.state !== 'booked'}<Button kind="tertiary" on:click={() => s.undo()}>Undo the last part</Button
			>{/if}
		{#if shown}<Button kind="ghost" on:click={() => s.clear()}>Put the card away</Button>{/if}
		<form onsubmit={type}>
			<Text
				label="A label that cannot be read"
				placeholder="type its number"
				mono
				ch={20}
				bind:value={typed}
				maxlength="200"
			/>
			<Button kind="ghost" type="submit">Enter</Button>
		</form>
	</section>
	{#if s.log.length > 1}
		<h2>Before that</h2>
		<ul class="log">
			{#each s.log.slice(1) as l (l.id)}<li class:bad={!l.taken}>{l.text}</li>{/each}
		</ul>
	{/if}
</main>

<style>
	header {
		display: flex;
		align-items: center;
		gap: 0.75rem;
		min-height: 48px;
		padding: 0 1rem;
		background: var(--bar);
		color: #fff;
		flex-wrap: wrap;
	}
	.where,
	.where a {
		color: #c3ced6;
		font-size: 0.875rem;
	}
	.who {
		margin-left: auto;
	}
	header :global(.out),
	header .out {
		color: #c3ced6;
	}
	main {
		max-width: 68rem;
		margin: 0 auto;
		padding: 0.75rem 1rem 2rem;
		outline: none;
	}
	main.scanner {
		margin-right: 240px;
	}
	.waits {
		background: var(--amber-soft);
		border-left: 6px solid var(--amber);
		padding: 0.75rem 1rem;
		margin: 0 0 0.75rem;
		font-size: 1.125rem;
	}
	.said {
		border-left: 8px solid var(--tag-rule);
		background: var(--paper);
		padding: 0.75rem 1rem;
		min-height: 5.5rem;
	}
	.said.good {
		border-color: var(--green);
	}
	.said.bad {
		border-color: var(--red);
		background: var(--red-soft);
	}
	.said p {
		margin: 0;
		font-size: 1.25rem;
		line-height: 1.4;
	}
	.said .next {
		font-size: 1.75rem;
		font-weight: 600;
		margin-bottom: 0.25rem;
	}
	.said .note {
		font-size: 1rem;
		color: var(--ink-soft);
	}
	.bin {
		font-size: 1.25rem;
		margin: 0.75rem 0 0;
	}
	.unit {
		margin-top: 1rem;
	}
	h1 {
		display: flex;
		align-items: baseline;
		gap: 1rem;
		flex-wrap: wrap;
		font-weight: 400;
		margin: 0;
	}
	.serial {
		font-size: 2.5rem;
		font-weight: 600;
	}
	.what {
		font-size: 1.5rem;
	}
	.unit p {
		margin: 0.25rem 0;
		font-size: 1rem;
	}
	.unit .why {
		background: var(--amber-soft);
		padding: 0.5rem 0.75rem;
		font-size: 1.125rem;
	}
	ol {
		list-style: none;
		margin: 0.75rem 0;
		padding: 0;
		border-top: 1px solid var(--rule);
	}
	ol li {
		display: grid;
		grid-template-columns: 3rem 1fr;
		align-items: center;
		min-height: 4rem;
		border-bottom: 1px solid var(--rule);
		background: var(--paper);
		padding: 0.4rem 0.75rem;
	}
	ol li.full :global(svg) {
		fill: var(--green);
	}
	ol li div {
		display: flex;
		align-items: center;
		flex-wrap: wrap;
		gap: 0.25rem 1rem;
	}
	.part {
		font-size: 1.375rem;
	}
	.many {
		font-size: 1.375rem;
		font-weight: 600;
	}
	.put {
		display: inline-flex;
		align-items: center;
		gap: 0.5rem;
	}
	.acts {
		display: flex;
		align-items: flex-end;
		gap: 0.75rem;
		flex-wrap: wrap;
		margin-top: 1rem;
	}
	.acts form {
		display: flex;
		align-items: flex-end;
		gap: 0.25rem;
		margin-left: auto;
	}
	h2 {
		font-size: 1rem;
		margin: 1.25rem 0 0.25rem;
	}
	.log {
		list-style: none;
		margin: 0;
		padding: 0;
		color: var(--ink-soft);
	}
	.log li {
		padding: 0.15rem 0;
	}
	.log .bad {
		color: var(--red);
	}
	@media (max-width: 640px) {
		.serial {
			font-size: 1.75rem;
		}
		.what {
			font-size: 1.125rem;
		}
		.said .next {
			font-size: 1.375rem;
		}
		.said p {
			font-size: 1.0625rem;
		}
		.where,
		header :global(.device) {
			display: none;
		}
		.acts form {
			margin-left: 0;
		}
	}
</style>
