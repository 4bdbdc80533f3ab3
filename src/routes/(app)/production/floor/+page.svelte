<script lang="ts">
	// The floor by operation, live: what waits, what is at work, what is stopped; the oldest first.
	import { Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { onMount } from 'svelte';
	import { invalidate } from '$app/navigation';
	import { showWhen } from '$lib/ui/dates';
	import { group } from '$lib/core/group/group';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data } = $props();
	/** Several steps in one moment are one look. */
	const SETTLE = 200;
	onMount(() => {
		const live = new EventSource('/production/floor/live');
		let timer: ReturnType<typeof setTimeout> | undefined;
		live.onmessage = () => {
			clearTimeout(timer);
			timer = setTimeout(() => invalidate('app:floor'), SETTLE);
		};
		return () => {
			live.close();
			clearTimeout(timer);
		};
	});
	const items = $derived([...group(data.operations, (o) => o.item)]);
	const STATES = ['queued', 'in process', 'held', 'rework'] as const;
	const WORDS = { queued: 'Queued', 'in process': 'In process', held: 'On hold', rework: 'In rework' };
</script>

<svelte:head><title>Floor · Production · Earmark</title></svelte:head>
<div class="head">
	<h1>The floor</h1>
	<a href="/production/yield">Yield</a>
	<a href="/station">Stations</a>
</div>
{#each items as [item, operations] (item)}
	<h2>{operations[0].itemName} <span class="soft mono">{item}</span></h2>
	<section class="panel">
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader>Operation</TableHeader>{#each STATES as s (s)}<TableHeader class="num">{WORDS[s]}</TableHeader
						>{/each}<TableHeader>There the longest</TableHeader></TableRow
				></TableHead
			>
			<TableBody>
				{#each operations as o (o.code)}
					<TableRow id="{item}-{o.code}">
						<TableCell>{o.name}</TableCell>
						{#each STATES as s (s)}<TableCell class="num"
								><span class:stopped={s !== 'queued' && s !== 'in process' && o.counts[s] > 0}
									>{o.counts[s] || '–'}</span
								></TableCell
							>{/each}
						<TableCell>
							{#each o.units as u (u.mark)}
								<span class="unit"
									><Tag kind="serial" number={u.serial} id={u.mark} /><span class="soft"
										>{u.state === 'queued' || u.state === 'in process' ? '' : `${WORDS[u.state as 'held']}, `}since {showWhen(
											u.since
										)}</span
									></span
								>
							{/each}
						</TableCell>
					</TableRow>
				{/each}
			</TableBody>
		</Table>
	</section>
{:else}
	<p class="panel hint">
		No item has a route yet. A route is a list of operations, such as kitting, assembly, test: give an item one in
		<a href="/setup/items">Setup, Items</a>.
	</p>
{/each}

<style>
	.hint {
		padding: 0.75rem;
	}
	h2 {
		margin: 1rem 0 0.4rem;
	}
	.unit {
		display: inline-flex;
		align-items: center;
		gap: 0.4rem;
		margin-right: 1rem;
		min-height: 28px;
	}
	.stopped {
		color: var(--red);
		font-weight: 600;
	}
</style>
