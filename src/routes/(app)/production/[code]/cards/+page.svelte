<script lang="ts">
	import { enhance } from '$app/forms';
	import { invalidateAll } from '$app/navigation';
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
	import { MOST_CARDS } from '$lib/core/codes/card';
	import { grouped } from '$lib/core/quantity/sign';
	import { SIZES, symbols } from '$lib/core/labels/label';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import { Making } from '$lib/ui/files/making.svelte';
	import MakingState from '$lib/ui/files/MakingState.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	import Tag from '$lib/ui/tag/Tag.svelte';
	let { data, form } = $props();
	const STATE: Record<string, string> = {
		new: 'not begun',
		open: 'parts missing',
		ready: 'all parts in',
		back: 'sent back',
		made: 'made'
	};
	/** Cards that nobody has printed yet are wanted first. */
	let chosen = $state<Record<string, boolean>>({});
	let own = $state(false);
	const wanted = (serial: string, printed: number, state: string) =>
		chosen[serial] ?? (printed === 0 && state !== 'made');
	const serials = $derived(data.cards.filter((c) => wanted(c.serial, c.printed, c.state)).map((c) => c.serial));
	const count = $derived(serials.length + (own ? 1 : 0));
	/** Of many those that come first; when they are printed the others are wanted. */
	const sheets = $derived(serials.slice(0, MOST_CARDS));
	const sheetCount = $derived(sheets.length + (own ? 1 : 0));
	const making = new Making();
	async function print() {
		const asked = new FormData();
		asked.set('own', own ? 'yes' : 'no');
		asked.set('serials', JSON.stringify(sheets));
		if (!(await making.make(`/production/${encodeURIComponent(data.code)}/cards/pdf`, asked))) return;
		// What is printed is wanted no more, unless it is chosen again.
		chosen = {};
		own = false;
		await invalidateAll();
	}
	const missing = $derived(Math.max(0, Number(data.qty) - data.cards.length));
	/** How many are listed; the others are chosen with them. */
	const SHOWN = 200;
	let size = $state<string>('70 × 35');
	let symbol = $state<string>('GS1 DataMatrix');
</script>

<svelte:head><title>Work cards {data.code} · Earmark</title></svelte:head>
<div class="head">
	<h1>Work cards: <a href="/production/{encodeURIComponent(data.code)}">{data.code}</a></h1>
	<span class="soft">{data.qty} {data.itemName}</span>
</div>
<Said {form} />
{#if data.units && data.may && !data.closed}
	<form method="POST" action="?/draw" use:enhance class="draw">
		{#if missing}<p>
				{grouped(missing)} of {grouped(data.qty)}
				{missing === 1 ? 'unit has' : 'units have'} no serial yet; a card needs one.
			</p>
			<Button type="submit" size="small">Draw {grouped(missing)} {missing === 1 ? 'serial' : 'serials'}</Button>
		{:else}<Hidden name="more" value="1" /><Button type="submit" kind="ghost" size="small" class="link"
				>One more than planned</Button
			>{/if}
	</form>
{/if}
{#if data.may}
	<div class="panel fields print">
		<Checkbox
			labelText="The order’s own card (printed {data.own} {data.own === 1 ? 'time' : 'times'})"
			bind:checked={own}
		/>
		<Button size="small" disabled={!sheetCount} on:click={print}
			>{grouped(sheetCount)} {sheetCount === 1 ? 'sheet' : 'sheets'} as PDF</Button
		>
		<form method="POST" action="?/label" use:enhance class="fields">
			<Hidden name="own" value={own ? 'yes' : 'no'} />
			<Hidden name="serials" value={JSON.stringify(serials)} />
			<Choose label="Label, mm" name="size" options={Object.keys(SIZES)} bind:value={size} />
			<Choose label="Code" name="symbol" options={symbols} bind:value={symbol} />
			<Button type="submit" size="small" kind="tertiary" disabled={!count}
				>Print {grouped(count)} {count === 1 ? 'label' : 'labels'}</Button
			>
		</form>
	</div>
	<MakingState {making} />
{/if}
{#if data.cards.length}
	<section class="panel">
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader><span class="visually-hidden">Print it</span></TableHeader><TableHeader>Unit</TableHeader
					><TableHeader>Where it is</TableHeader><TableHeader class="num">Cards printed</TableHeader></TableRow
				></TableHead
			>
			<TableBody>
				{#each data.cards.slice(0, SHOWN) as c (c.serial)}
					<TableRow
						><TableCell
							><Checkbox
								labelText="Card of {c.serial}"
								hideLabel
								checked={wanted(c.serial, c.printed, c.state)}
								on:check={(e) => (chosen[c.serial] = e.detail)}
							/></TableCell
						><TableCell><Tag kind="serial" number={c.serial} /></TableCell><TableCell>{STATE[c.state]}</TableCell
						><TableCell class="num">{c.printed}</TableCell></TableRow
					>
				{/each}
			</TableBody>
		</Table>
	</section>
	{#if data.cards.length > SHOWN}<p class="soft">
			{SHOWN} of {grouped(data.cards.length)} shown; cards that were not printed yet are printed with them, as sheets {MOST_CARDS}
			at a time.
		</p>{/if}
{:else if data.units}<p class="panel hint soft">No serial is drawn yet.</p>{:else}<p class="panel hint soft">
		{data.itemName} is made as one batch: the order’s own card takes what goes in for all of it.
	</p>{/if}

<style>
	.draw {
		display: flex;
		align-items: center;
		gap: 1rem;
		margin-bottom: 0.75rem;
	}
	.draw p {
		margin: 0;
	}
	.print {
		align-items: flex-end;
		padding: 0.5rem 0.75rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.hint {
		padding: 0.75rem;
		margin: 0;
	}
</style>
