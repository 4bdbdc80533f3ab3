<script lang="ts">
	// For a scanner alone: a card, its parts, the next card.
	import { Button } from 'carbon-components-svelte';
	import Checkmark from 'carbon-icons-svelte/lib/CheckmarkFilled.svelte';
	import Circle from 'carbon-icons-svelte/lib/CircleDash.svelte';
	import { amount } from '$lib/core/quantity/quantity';
	import Quantity from '$lib/ui/fields/Quantity.svelte';
	import StationFrame from '$lib/ui/station/StationFrame.svelte';
	import { StationState } from '$lib/ui/station/station.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data } = $props();
	// svelte-ignore state_referenced_locally
	const s = new StationState(data.station.code);
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
</script>

<StationFrame title="Station" station={data.station} person={data.person.name} scans={s} {next} notes={s.last?.notes}>
	{#snippet where()}
		<span class="mono">{data.station.place}</span> · {data.station.review ? 'waits for a review' : 'booked at once'} ·
		<a href="/station/{encodeURIComponent(data.station.code)}/floor">move units on</a>
	{/snippet}
	{#if s.bin}<p class="bin">The next part is taken from <span class="mono">{s.bin}</span></p>{/if}
	{#if shown}
		<section class="unit">
			<h2 class="before">
				{#if shown.serial}<span class="mono">{shown.serial}</span>{:else}<span class="mono">{shown.order}</span>{/if}
				<span>{shown.itemName}</span>
				{#if shown.picture}<img src="/files/{shown.picture}" alt="" />{/if}
			</h2>
			<p class="soft">
				{#if shown.serial}order <span class="mono">{shown.order}</span>{shown.done === null
						? ''
						: ` · ${shown.done} of ${shown.planned} have all their parts`}{:else}parts for the whole order, booked at
					the desk{/if}
			</p>
			{#if shown.said}<p class="why">{shown.state === 'back' ? 'Sent back: ' : ''}{shown.said}</p>{/if}
			<ol aria-label="Parts, {full} of {asked.length} in">
				{#each asked as slot (slot.lineId)}
					<li class:full={slot.left === '0'}>
						{#if slot.left === '0'}<Checkmark size={32} />{:else}<Circle size={32} />{/if}
						{#if slot.picture}<img src="/files/{slot.picture}" alt="" />{/if}
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
	{#snippet acts()}
		{#if counted}<Quantity label="Of the next lot" placeholder="what is missing" ch={16} bind:value={s.qty} />{/if}
		{#if shown && shown.state !== 'booked'}<Button kind="tertiary" on:click={() => s.undo()}>Undo the last part</Button
			>{/if}
		{#if shown}<Button kind="ghost" on:click={() => s.clear()}>Next unit</Button>{/if}
	{/snippet}
</StationFrame>

<style>
	.bin {
		font-size: 1.25rem;
		margin: 0.75rem 0 0;
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
		display: flex;
		align-items: center;
		gap: 0.75rem;
		min-height: 4rem;
		border-bottom: 1px solid var(--rule);
		background: var(--paper);
		padding: 0.4rem 0.75rem;
	}
	ol li.full :global(svg) {
		fill: var(--green);
	}
	ol li img,
	h2 img {
		width: 3rem;
		height: 3rem;
		object-fit: contain;
		flex: none;
	}
	h2 img {
		margin-left: auto;
		width: 4rem;
		height: 4rem;
	}
	ol li div {
		flex: 1;
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
</style>
