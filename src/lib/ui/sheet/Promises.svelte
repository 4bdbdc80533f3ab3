<script lang="ts">
	// What is promised to a line: made from what is suggested or chosen, and given up again.
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { showDay } from '$lib/ui/dates';
	import { show, total } from '$lib/core/quantity/quantity';
	import { grouped } from '$lib/core/quantity/sign';
	import { unitWord } from '$lib/core/quantity/units';
	import { compress, expand, ranged } from '$lib/core/ranges/ranges';
	import { group } from '$lib/core/group/group';
	import type { Cell, LinePromise, SheetLine } from '$lib/core/sheet/sheet';
	import DayField from '../fields/DayField.svelte';
	import Text from '../fields/Text.svelte';
	import Question from '../shell/Question.svelte';
	import Tag from '../tag/Tag.svelte';
	import { unpromised, type Sheet } from './sheet.svelte';
	interface Props {
		sheet: Sheet;
		line: SheetLine;
		cell: Cell;
		readonly: boolean;
		/** is it asked just now what to promise */
		asking: boolean;
	}
	let { sheet, line, cell, readonly, asking = $bindable() }: Props = $props();
	let [until, reason] = $state(['', '']);
	const open = $derived(unpromised(line, cell));
	const says = (p: LinePromise) =>
		p.takenBy ??
		(p.over
			? `its day has passed: it holds nothing any more`
			: p.until
				? `until ${showDay(p.until)}`
				: 'until it has gone');
	/** Serials of which the same is said as ranges; lots one by one. */
	const rows = $derived.by(() => {
		const [serials, lots] = [
			line.promises.filter((p) => p.kind === 'serial'),
			line.promises.filter((p) => p.kind === 'lot')
		];
		const out = lots.map((p) => ({ key: p.id, of: [p], first: p.number, last: p.number }));
		for (const [, list] of group(serials, says)) {
			const by = new Map(list.map((p) => [p.number, p]));
			for (const r of compress(by.keys())) {
				const of = expand(r.first, r.count).map((n) => by.get(n)!);
				out.push({ key: of[0].id, of, first: r.first, last: of[of.length - 1].number });
			}
		}
		return out;
	});
	async function go() {
		const picks = open.map(({ mark, qty }) => ({ mark, qty }));
		if (await sheet.promise(line.id, picks, { until: until.trim(), reason: reason.trim() })) [until, reason] = ['', ''];
	}
</script>

{#if rows.length}
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>Promised</TableHeader><TableHeader class="num">Quantity, {unitWord(line.unit)}</TableHeader
				><TableHeader>How long</TableHeader><TableHeader><span class="visually-hidden">Release</span></TableHeader
				></TableRow
			></TableHead
		>
		<TableBody>
			{#each rows as r (r.key)}
				{@const [p] = r.of}
				<TableRow>
					<TableCell
						><Tag
							kind={p.kind}
							number={r.first}
							last={r.last}
							count={r.of.length}
							id={r.of.length === 1 ? p.mark : null}
							item={line.itemName}
						/></TableCell
					>
					<TableCell class="num" data-label="Quantity, {unitWord(line.unit)}"
						>{p.kind === 'serial' ? grouped(r.of.length) : show(p.rest)}{#if p.kind === 'lot' && p.rest !== p.qty}<span
								class="soft"
							>
								of {show(p.qty)}</span
							>{/if}</TableCell
					>
					<TableCell class={p.takenBy ? 'bad' : ''} data-label="How long">{says(p)}</TableCell>
					<TableCell class="num"
						>{#if !readonly}<Button
								kind="ghost"
								size="small"
								class="link"
								on:click={() => sheet.release(r.of.map((x) => x.id))}
								>Release<span class="visually-hidden"> {r.first}</span></Button
							>{/if}</TableCell
					>
				</TableRow>
			{/each}
		</TableBody>
	</Table>
{/if}
{#if asking}
	<Question
		title="Promise to {sheet.state.code}, line {line.no}"
		verb="Promise"
		ondo={go}
		onleave={() => (asking = false)}
	>
		<p class="whole">
			<span class="mono">{ranged(open.map((o) => o.number))}</span>: {show(total(open.map((o) => o.qty)))}
			{unitWord(line.unit)} of {line.itemName}. Nobody else is offered it then.
		</p>
		<DayField label="Until, if it ends" bind:value={until} />
		<Text label="Why, if it is promised to another order" bind:value={reason} maxlength="1000" />
	</Question>
{/if}

<style>
	.whole {
		flex-basis: 100%;
		margin: 0;
	}
</style>
