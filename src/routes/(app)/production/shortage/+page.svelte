<script lang="ts">
	// What open orders lack of each part, and the purchase orders for it.
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
	import { showDay } from '$lib/ui/dates';
	import { amount, show } from '$lib/core/quantity/quantity';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import DayField from '$lib/ui/fields/DayField.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Quantity from '$lib/ui/fields/Quantity.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	interface Buy {
		on: boolean;
		qty: string;
		supplier: string;
	}
	let changed = $state<Record<string, Partial<Buy>>>({});
	const buyOf = (r: (typeof data.rows)[number]): Buy => ({
		on: true,
		qty: r.missing,
		supplier: r.supplier ?? '',
		...changed[r.item]
	});
	const set = (item: string, what: Partial<Buy>) => (changed[item] = { ...changed[item], ...what });
	const short = $derived(data.rows.filter((r) => r.missing !== '0'));
	const bought = $derived(short.filter((r) => !r.made));
	const lines = $derived(
		bought.filter((r) => buyOf(r).on).map((r) => ({ item: r.item, qty: buyOf(r).qty, supplier: buyOf(r).supplier }))
	);
	const suppliers = $derived(new Set(lines.map((l) => l.supplier).filter(Boolean)).size);
	const made = $derived(form && 'made' in form ? (form.made as { code: string; path: string }[]) : []);
</script>

<svelte:head><title>Shortage · Production · Earmark</title></svelte:head>
<div class="head">
	<h1>Shortage</h1>
	<span class="soft">what open production orders need, less what is free, less what comes by then</span>
</div>
<Said {form} />
{#if made.length}<p class="made">
		{#each made as m (m.code)}<a class="mono" href={m.path}>{m.code}</a>{/each}
	</p>{/if}
<form method="GET" class="panel fields asked">
	<Text label="Order" name="order" value={data.order ?? ''} mono ch={14} placeholder="all open ones" maxlength="60" />
	<DayField label="Due by" name="until" value={data.until} />
	<Button type="submit" size="small" kind="tertiary">Show</Button>
</form>
<form method="POST" class="panel" use:enhance>
	<Hidden name="lines" value={JSON.stringify(lines)} />
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>Item</TableHeader><TableHeader>Needed for</TableHeader><TableHeader class="num"
					>Needed</TableHeader
				><TableHeader class="num">Free</TableHeader><TableHeader class="num">Expected</TableHeader><TableHeader
					class="num">Missing</TableHeader
				>{#if data.may}<TableHeader>Buy</TableHeader><TableHeader class="num">Quantity</TableHeader><TableHeader
						>From</TableHeader
					>{/if}</TableRow
			></TableHead
		>
		<TableBody>
			{#each data.rows as r (r.item)}
				{@const buy = buyOf(r)}
				<TableRow>
					<TableCell>{r.itemName} <span class="soft mono">{r.item}</span></TableCell>
					<TableCell
						>{#each r.orders.slice(0, 3) as o (o.code)}<a
								class="mono order"
								href="/production/{encodeURIComponent(o.code)}"
								title={o.dueOn ? `due ${showDay(o.dueOn)}` : ''}>{o.code}</a
							>{/each}{#if r.orders.length > 3}<span class="soft">and {r.orders.length - 3} more</span>{/if}</TableCell
					>
					<TableCell class="num">{amount(r.needed, r.unit)}</TableCell>
					<TableCell class="num">{show(r.free)}</TableCell>
					<TableCell class="num">{show(r.expected)}</TableCell>
					<TableCell class="num"><span class:missing={r.missing !== '0'}>{show(r.missing)}</span></TableCell>
					{#if data.may}
						{#if r.missing === '0'}<TableCell colspan={3} />
						{:else if r.made}<TableCell colspan={3}
								><a href="/production/new">Make it: new production order</a></TableCell
							>
						{:else}
							<TableCell
								><Checkbox
									labelText="Buy {r.itemName}"
									hideLabel
									checked={buy.on}
									on:check={(e) => set(r.item, { on: e.detail })}
								/></TableCell
							>
							<TableCell class="num"
								><Quantity
									label="How much of {r.itemName}"
									hide
									ch={8}
									value={buy.qty}
									decimals={r.decimals}
									onquantity={(qty: string) => set(r.item, { qty })}
								/></TableCell
							>
							<TableCell
								><Choose
									label="Supplier of {r.itemName}"
									hide
									options={[['', 'choose'], ...data.suppliers]}
									value={buy.supplier}
									onpick={(supplier: string) => set(r.item, { supplier })}
								/></TableCell
							>
						{/if}
					{/if}
				</TableRow>
			{:else}
				<TableRow
					><TableCell colspan={9} class="soft"
						>{data.order
							? `${data.order} is no open production order, or it needs nothing any more.`
							: 'No open order needs anything by then.'}</TableCell
					></TableRow
				>
			{/each}
		</TableBody>
	</Table>
	{#if data.may && bought.length}
		<div class="below fields">
			<Choose
				label="Arrives at"
				name="place"
				options={data.proposed ? data.places : [['', 'choose a place'], ...data.places]}
				value={data.proposed}
			/>
			<DayField label="Expected" name="dueOn" value={data.until} />
			<Button type="submit" size="small" disabled={!lines.length}
				>{suppliers < 2 ? 'Make the purchase order' : `Make ${suppliers} purchase orders`}</Button
			>
		</div>
	{/if}
</form>

<style>
	.asked,
	.below {
		padding: 0.6rem 0.75rem 0.75rem;
	}
	.order {
		margin-right: 0.75rem;
	}
	.missing {
		color: var(--red);
		font-weight: 600;
	}
	.made a {
		margin-right: 1rem;
	}
	form.panel + form.panel {
		margin-top: 0.75rem;
	}
</style>
