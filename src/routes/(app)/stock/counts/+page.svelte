<script lang="ts">
	// Counts, and how right they were over time.
	import { Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { grouped } from '$lib/core/quantity/sign';
	import OrderList from '$lib/ui/sheet/OrderList.svelte';
	let { data } = $props();
	const percent = (right: number, lines: number) => ((right / lines) * 100).toFixed(1);
</script>

<OrderList {...data} />
{#if data.accuracy.length}
	<h2>How right the counts were</h2>
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>Month</TableHeader><TableHeader class="num">Counts</TableHeader><TableHeader class="num"
					>Lines counted</TableHeader
				><TableHeader class="num">As expected</TableHeader><TableHeader class="num">Accuracy, %</TableHeader></TableRow
			></TableHead
		>
		<TableBody>
			{#each data.accuracy as a (a.month)}<TableRow
					><TableCell data-label="Month">{a.month}</TableCell><TableCell class="num" data-label="Counts"
						>{grouped(a.counts)}</TableCell
					><TableCell class="num" data-label="Lines counted">{grouped(a.lines)}</TableCell><TableCell
						class="num"
						data-label="As expected">{grouped(a.right)}</TableCell
					><TableCell class="num" data-label="Accuracy, %">{percent(a.right, a.lines)}</TableCell></TableRow
				>{/each}
		</TableBody>
	</Table>
{/if}

<style>
	h2 {
		margin-top: 1.5rem;
	}
</style>
