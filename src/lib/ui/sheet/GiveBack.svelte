<script lang="ts">
	// What was put into a batch and not used: how much of each goes back, and to which bin.
	import { Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { amount } from '$lib/core/quantity/quantity';
	import type { LeftOver } from '$lib/core/sheet/sheet';
	import Choose from '../fields/Choose.svelte';
	import Quantity from '../fields/Quantity.svelte';
	import Tag from '../tag/Tag.svelte';
	interface Props {
		left: readonly LeftOver[];
		bins: readonly string[];
		/** how much of each goes back, and where to */
		back: Record<string, { qty: string; place: string }>;
	}
	let { left, bins, back = $bindable() }: Props = $props();
	const placesFor = (l: LeftOver) => (bins.includes(l.place) ? bins : [l.place, ...bins]);
	const set = (l: LeftOver, what: { qty?: string; place?: string }) =>
		(back = { ...back, [l.mark]: { ...back[l.mark], ...what } });
</script>

<Table size="short">
	<TableHead
		><TableRow
			><TableHeader>In the batch</TableHeader><TableHeader class="num">Went in</TableHeader><TableHeader
				>Goes back</TableHeader
			><TableHeader>To</TableHeader></TableRow
		></TableHead
	>
	<TableBody>
		{#each left as l (l.mark)}
			{@const said = l.number || l.itemName}
			<TableRow>
				<TableCell><Tag kind={l.kind} number={l.number} /> {l.itemName}</TableCell>
				<TableCell class="num">{amount(l.qty, l.unit)}</TableCell>
				<TableCell
					><Quantity
						label="Of {said} goes back"
						hide
						ch={8}
						decimals={l.decimals}
						bind:value={() => back[l.mark]?.qty, (qty) => set(l, { qty: qty ?? '' })}
					/></TableCell
				>
				<TableCell
					><Choose
						label="Bin for {said}"
						hide
						options={placesFor(l)}
						value={back[l.mark]?.place}
						onpick={(place: string) => set(l, { place })}
					/></TableCell
				>
			</TableRow>
		{/each}
	</TableBody>
</Table>
