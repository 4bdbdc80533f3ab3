<script lang="ts">
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { sayPercent } from '$lib/core/quantity/sign';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import DayField from '$lib/ui/fields/DayField.svelte';
	import YieldChart from '$lib/ui/floor/YieldChart.svelte';
	let { data } = $props();
	/** A span as people say it: 45 s, 12 min, 3.5 h, 2 d. */
	function span(ms: number | null): string {
		if (ms === null) return '–';
		const s = ms / 1000;
		const round = (n: number) => String(Math.round(n * 10) / 10);
		if (s < 90) return `${Math.round(s)} s`;
		if (s < 5400) return `${Math.round(s / 60)} min`;
		if (s < 172_800) return `${round(s / 3600)} h`;
		return `${round(s / 86_400)} d`;
	}
</script>

<svelte:head><title>Yield · Production · Earmark</title></svelte:head>
<div class="head">
	<h1>Yield</h1>
	<a href="/production/floor">The floor</a>
</div>
{#if !data.item}
	<p class="panel hint">
		Nothing has gone over the floor yet. Give an item a route in <a href="/setup/items">Setup, Items</a>, and release
		units to it.
	</p>
{:else}
	<form method="GET" class="panel fields asked">
		<Choose label="Item" name="item" options={data.items.map((i) => [i.code, i.name] as const)} value={data.item} />
		<DayField label="From" name="from" value={data.from} />
		<DayField label="To" name="to" value={data.to} />
		<Button type="submit" size="small" kind="tertiary">Show</Button>
	</form>
	<section class="panel rolled">
		{#if data.rolled}<p>
				<strong>{sayPercent(data.rolled.share)}</strong> rolled throughput yield
				<span class="soft">the product of the first-pass yields, {data.rolled.exact}</span>
			</p>
		{:else}<p class="soft">No rolled yield: at some operation nothing was started in this time.</p>{/if}
		<YieldChart rows={data.rows} />
	</section>
	<section class="panel">
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader>Operation</TableHeader><TableHeader class="num">Started</TableHeader><TableHeader class="num"
						>Passed first time</TableHeader
					><TableHeader class="num">Reworked</TableHeader><TableHeader class="num">Scrapped</TableHeader><TableHeader
						class="num">First-pass yield</TableHeader
					><TableHeader class="num">Cycle time, middle</TableHeader><TableHeader class="num"
						>nine of ten within</TableHeader
					></TableRow
				></TableHead
			>
			<TableBody>
				{#each data.rows as r (r.operation)}
					<TableRow
						><TableCell><a href="/production/floor#{data.item}-{r.operation}">{r.name}</a></TableCell><TableCell
							class="num">{r.started}</TableCell
						><TableCell class="num">{r.passedFirst}</TableCell><TableCell class="num">{r.reworked}</TableCell><TableCell
							class="num">{r.scrapped}</TableCell
						><TableCell class="num"
							>{r.share === null ? '–' : sayPercent(r.share)}{#if r.firstPassYield}<span class="soft exact"
									>{r.firstPassYield}</span
								>{/if}</TableCell
						><TableCell class="num">{span(r.cycleMedian)}</TableCell><TableCell class="num">{span(r.cycle90)}</TableCell
						></TableRow
					>
				{/each}
			</TableBody>
		</Table>
	</section>
	<p class="soft">
		A unit is started at an operation when it first goes in process there in this time, and passes first time when it is
		finished there without having been sent to rework or scrapped there.
	</p>
{/if}

<style>
	.hint {
		padding: 0.75rem;
	}
	.asked {
		padding: 0.5rem 0.75rem 0.75rem;
	}
	.exact {
		display: inline-block;
		min-width: 3rem;
		margin-left: 0.5rem;
	}
	.rolled {
		margin: 0.75rem 0;
		padding: 0.6rem 0.75rem;
	}
	.rolled p {
		margin: 0;
	}
	strong {
		font-size: 1.5rem;
	}
</style>
