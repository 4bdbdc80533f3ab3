<script lang="ts">
	import { enhance } from '$app/forms';
	import {
		Button,
		Checkbox,
		Table,
		TableBody,
		TableCell,
		TableHead,
		TableHeader,
		TableRow
	} from 'carbon-components-svelte';
	import type { Operation } from '$lib/core/floor/moves';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	const empty = (): Operation => ({ code: '', name: '', stations: [], recordsUse: false, values: [] });
	// svelte-ignore state_referenced_locally
	let rows = $state<Operation[]>(data.operations.length ? structuredClone(data.operations) : [empty()]);
	const sent = $derived(JSON.stringify(rows.filter((r) => r.code || r.name)));
	/** Codes with commas between. */
	const codes = (typed: string) => typed.split(/[,;\s]+/).filter(Boolean);
	function up(i: number) {
		[rows[i - 1], rows[i]] = [rows[i], rows[i - 1]];
	}
</script>

<svelte:head><title>Route of {data.item.code} · Earmark</title></svelte:head>
<div class="head">
	<h1>Route: <a href="/setup/items/{encodeURIComponent(data.item.code)}">{data.item.name}</a></h1>
	<span class="soft">the operations that a unit goes through, in order</span>
</div>
<Said {form} />
<form
	method="POST"
	use:enhance={() =>
		({ update }) =>
			update({ reset: false })}
>
	<Hidden name="operations" value={sent} />
	<section class="panel">
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader>Code</TableHeader><TableHeader>Name</TableHeader><TableHeader>Done at</TableHeader><TableHeader
						>Asked before it is left</TableHeader
					><TableHeader>Parts recorded first</TableHeader><TableHeader
						><span class="visually-hidden">What can be done</span></TableHeader
					></TableRow
				></TableHead
			>
			<TableBody>
				{#each rows as row, i (row)}
					<TableRow>
						<TableCell
							><Text
								label="Code of operation {i + 1}"
								hide
								mono
								ch={10}
								bind:value={row.code}
								maxlength="30"
							/></TableCell
						>
						<TableCell
							><Text label="Name of operation {i + 1}" hide ch={18} bind:value={row.name} maxlength="100" /></TableCell
						>
						<TableCell
							><Text
								label="Stations of operation {i + 1}"
								hide
								mono
								ch={14}
								placeholder="anywhere"
								value={row.stations.join(', ')}
								onchange={(e) => (row.stations = codes(e.currentTarget.value))}
								maxlength="600"
							/></TableCell
						>
						<TableCell
							><Text
								label="Values of operation {i + 1}"
								hide
								mono
								ch={14}
								placeholder="nothing"
								value={row.values.join(', ')}
								onchange={(e) => (row.values = codes(e.currentTarget.value))}
								maxlength="600"
							/></TableCell
						>
						<TableCell
							><Checkbox labelText="Operation {i + 1} records use" hideLabel bind:checked={row.recordsUse} /></TableCell
						>
						<TableCell class="acts"
							>{#if i}<Button kind="ghost" size="small" class="link" on:click={() => up(i)}
									>Up<span class="visually-hidden">: operation {i + 1}</span></Button
								>{/if}{#if rows.length > 1}<Button
									kind="ghost"
									size="small"
									class="link"
									on:click={() => rows.splice(i, 1)}
									>Remove<span class="visually-hidden"> operation {i + 1}</span></Button
								>{/if}</TableCell
						>
					</TableRow>
				{/each}
			</TableBody>
		</Table>
		<div class="below">
			<Button kind="ghost" size="small" class="link" on:click={() => rows.push(empty())}>Add an operation</Button>
			<Button type="submit" size="small">Save the route</Button>
		</div>
	</section>
</form>
<p class="soft">
	Stations: {data.stations.map(([code, name]) => `${code} (${name})`).join(', ') || 'none is set up yet'}. Extra fields:
	{data.facts.map(([code, name]) => `${code} (${name})`).join(', ') || 'none is set up yet'}. Several have commas
	between.
</p>
<p class="soft">Units that are on the floor keep the route that they were released with.</p>

<style>
	.below {
		display: flex;
		justify-content: space-between;
		padding: 0.75rem;
	}
</style>
