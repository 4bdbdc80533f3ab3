<script lang="ts">
	// Of an item only the total was counted: what differs is laid on its lots, as proposed or as a person knows it.
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import type { TotalLaid } from '$lib/core/count/shown';
	import { show } from '$lib/core/quantity/quantity';
	import GridField from '../fields/GridField.svelte';
	import Quantity from '../fields/Quantity.svelte';
	import type { Count } from './count.svelte';
	interface Props {
		count: Count;
		item: { code: string; name: string; unit: string; decimals: number };
		onleave: () => void;
	}
	let { count, item, onleave }: Props = $props();
	let total = $state('');
	let laid = $state<TotalLaid | null>(null);
	let changes = $state<Record<string, string>>({});
	async function propose(e: SubmitEvent) {
		e.preventDefault();
		laid = await count.total(item.code, total);
		changes = Object.fromEntries((laid?.lots ?? []).map((l) => [l.mark, l.change]));
	}
	/** A minus as people type it. */
	const plain = (text: string) =>
		text
			.trim()
			.replace(/^[−–]\s*/, '-')
			.replace(',', '.') || '0';
	async function enter() {
		const given = Object.entries(changes).map(([mark, change]) => ({ mark, change: plain(change) }));
		if (await count.total(item.code, total, given)) onleave();
	}
</script>

<div class="panel">
	<form onsubmit={propose}>
		<Quantity
			label="All of {item.name} here, {item.unit === 'each' ? 'pcs' : item.unit}"
			ch={10}
			bind:value={total}
			decimals={item.decimals}
		/>
		<Button kind="ghost" size="small" type="submit" disabled={!total.trim()}>Lay it on the lots</Button>
		<Button kind="ghost" size="small" class="link" on:click={onleave}>Cancel</Button>
	</form>
	{#if laid}
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader>Lot</TableHeader><TableHeader class="num">Expected</TableHeader><TableHeader class="num"
						>More or less</TableHeader
					></TableRow
				></TableHead
			>
			<TableBody>
				{#each laid.lots as l (l.mark)}<TableRow
						><TableCell class="mono">{l.number}</TableCell><TableCell class="num" data-label="Expected"
							>{show(l.expected)}</TableCell
						><TableCell class="num" data-label="More or less"
							><GridField
								label="More or less of {l.number}"
								value={changes[l.mark] ?? '0'}
								ch={9}
								num
								onchange={(v) => (changes[l.mark] = v)}
							/></TableCell
						></TableRow
					>{/each}
			</TableBody>
		</Table>
		<div class="below">
			<span class="soft"
				>Expected {show(laid.expected)}, counted {total}. What is missing is laid on the lot that goes first.</span
			>
			<Button size="small" on:click={enter}>Enter it</Button>
		</div>
	{/if}
</div>

<style>
	.panel {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	form,
	.below {
		display: flex;
		flex-wrap: wrap;
		align-items: flex-end;
		gap: 0.5rem 1rem;
	}
	.below {
		justify-content: space-between;
		align-items: center;
		margin-top: 0.5rem;
	}
</style>
