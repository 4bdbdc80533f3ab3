<script lang="ts">
	// Units are moved on by a scan of their card; another act is chosen first and done by the next scan.
	import { onMount } from 'svelte';
	import { Button } from 'carbon-components-svelte';
	import type { Act } from '$lib/core/floor/moves';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import StationFrame from '$lib/ui/station/StationFrame.svelte';
	import { FloorStation } from '$lib/ui/station/floor.svelte';
	let { data } = $props();
	// svelte-ignore state_referenced_locally
	const s = new FloorStation(data.station.code);
	const ACTS: readonly [Act | 'look', string, string][] = [
		['look', 'Look only', 'Scan a unit: it says where it is, and changes nothing'],
		['release', 'Release', 'The next scan releases a unit to the floor'],
		['hold', 'Hold', 'The next scan puts a unit on hold'],
		['release hold', 'Release hold', 'The next scan takes a unit off hold'],
		['rework', 'To rework', 'The next scan sends a unit to rework'],
		['out of rework', 'Out of rework', 'The next scan takes a unit out of rework'],
		['scrap', 'Scrap', 'The next scan scraps a unit']
	];
	onMount(() => s.follow(`/station/${encodeURIComponent(data.station.code)}/floor/reader`));
	const next = $derived(ACTS.find(([a]) => a === s.act)?.[2] ?? 'Scan a unit to move it on');
	const unit = $derived(s.last?.unit);
</script>

<StationFrame title="Floor" station={data.station} person={data.person.name} scans={s} {next} chosen={s.act !== 'read'}>
	{#snippet where()}
		moving units on · <a href="/station/{encodeURIComponent(data.station.code)}">put parts in</a>
	{/snippet}
	{#if s.field.length}<p class="soft field">
			Before the reader: <span class="mono">{s.field.join(', ')}</span>{s.last?.wrote
				? ' · written, and the write held'
				: ''}
		</p>{/if}
	{#if unit}
		<section>
			<h2 class="before"><span class="mono">{unit.serial}</span> <span>{unit.itemName}</span></h2>
			{#if unit.state}<p class="state">
					{unit.state}{unit.state === 'complete' || unit.state === 'scrapped' ? '' : ` · ${unit.name}`}
				</p>
				<p class="soft">{unit.order ? `order ${unit.order} · ` : ''}{unit.by}</p>{/if}
		</section>
	{/if}
	<div class="acts" role="group" aria-label="What the next scan does">
		{#each ACTS as [act, label] (act)}<Button
				kind={s.act === act ? 'primary' : 'tertiary'}
				aria-pressed={s.act === act}
				on:click={() => s.choose(act)}>{label}</Button
			>{/each}
	</div>
	{#if s.act === 'rework' || s.act === 'hold' || s.act === 'scrap'}
		<div class="more">
			{#if s.act === 'rework'}<Choose
					label="Back to"
					options={[['', 'where it stands'], ...data.operations.map((o) => [o.code, o.name] as const)]}
					value={s.operation}
					onpick={(v) => (s.operation = v)}
				/>{/if}
			<Text label="Why" ch={32} bind:value={s.reason} maxlength="1000" />
		</div>
	{/if}
</StationFrame>

<style>
	.state {
		font-size: 1.75rem;
		margin: 0.25rem 0;
	}
	.soft {
		margin: 0;
	}
	.acts {
		display: grid;
		grid-template-columns: repeat(auto-fill, minmax(10rem, 1fr));
		gap: 0.5rem;
		margin: 1rem 0;
	}
	.acts :global(.bx--btn) {
		min-height: 3.5rem;
		max-width: none;
		width: 100%;
	}
	.more {
		display: flex;
		align-items: flex-end;
		gap: 0.5rem;
		flex-wrap: wrap;
	}
</style>
