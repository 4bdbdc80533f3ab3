<script lang="ts">
	// Units are moved on by a scan of their card; another act is chosen first and done by the next scan.
	import { Button } from 'carbon-components-svelte';
	import { onMount } from 'svelte';
	import type { Act } from '$lib/core/floor/moves';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import Scanner from '$lib/ui/devices/Scanner.svelte';
	import { takeScans } from '$lib/ui/scan/scanner';
	import { FloorStation } from '$lib/ui/station/floor.svelte';
	let { data } = $props();
	// svelte-ignore state_referenced_locally
	const s = new FloorStation(data.station.code);
	onMount(() => s.connect());
	onMount(() => takeScans((text) => (s.scan(text), true)));
	let scanner = $state(false);
	let typed = $state('');
	const ACTS: readonly [Act | 'look', string, string][] = [
		['look', 'Look only', 'Scan a unit: it says where it is, and changes nothing'],
		['release', 'Release', 'The next scan releases a unit to the floor'],
		['hold', 'Hold', 'The next scan puts a unit on hold'],
		['release hold', 'Release hold', 'The next scan takes a unit off hold'],
		['rework', 'To rework', 'The next scan sends a unit to rework'],
		['out of rework', 'Out of rework', 'The next scan takes a unit out of rework'],
		['scrap', 'Scrap', 'The next scan scraps a unit']
	];
	const next = $derived(ACTS.find(([a]) => a === s.act)?.[2] ?? 'Scan a unit to move it on');
	const unit = $derived(s.last?.unit);
	function type(e: SubmitEvent) {
		e.preventDefault();
		s.scan(typed, true);
		typed = '';
	}
</script>

<svelte:head><title>{data.station.name} · Floor · Earmark</title></svelte:head>
<header>
	<strong>{data.station.name}</strong>
	<span class="where"
		>moving units on · <a href="/station/{encodeURIComponent(data.station.code)}">put parts in</a></span
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
	<section
		class="said"
		class:good={s.last?.taken}
		class:bad={s.last && !s.last.taken}
		class:chosen={s.act !== 'read'}
		aria-live="assertive"
	>
		<p class="next">{next}</p>
		{#if s.last}<p>{s.last.said}</p>{/if}
	</section>
	{#if unit}
		<section class="unit">
			<h1><span class="serial mono">{unit.serial}</span> <span class="what">{unit.itemName}</span></h1>
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
	<form onsubmit={type}>
		<Text
			label="A label that cannot be read"
			placeholder="type its serial"
			mono
			ch={20}
			bind:value={typed}
			maxlength="200"
		/>
		<Button kind="ghost" type="submit">Enter</Button>
	</form>
	{#if s.log.length > 1}
		<h2>Before that</h2>
		<ul>
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
	.said.chosen {
		border-color: var(--amber);
		background: var(--amber-soft);
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
	.unit {
		margin: 1rem 0;
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
	.state {
		font-size: 1.75rem;
		margin: 0.25rem 0;
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
	.more,
	form {
		display: flex;
		align-items: flex-end;
		gap: 0.5rem;
		flex-wrap: wrap;
		margin-bottom: 0.75rem;
	}
	h2 {
		font-size: 1rem;
		margin: 1.25rem 0 0.25rem;
	}
	ul {
		list-style: none;
		margin: 0;
		padding: 0;
		color: var(--ink-soft);
	}
	li {
		padding: 0.15rem 0;
	}
	li.bad {
		color: var(--red);
	}
	@media (max-width: 640px) {
		.serial {
			font-size: 1.75rem;
		}
		.said .next {
			font-size: 1.375rem;
		}
		.said p {
			font-size: 1.0625rem;
		}
		header :global(.device) {
			display: none;
		}
	}
</style>
