<script lang="ts">
	import { showWhen } from '$lib/core/dates/dates';
	import { show } from '$lib/core/quantity/quantity';
	import { grouped } from '$lib/core/quantity/sign';
	import { unitWord } from '$lib/core/quantity/units';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	// Where it is now. Serials of one item, place and paper fold into ranges.
	import { foldWhere } from '$lib/core/trace/fold';
	import type { TraceMark, WhereRow } from '$lib/core/trace/view';
	import { KNOWN_BY } from '$lib/core/ledger/evidence';
	import Tag from '../tag/Tag.svelte';

	let { rows, marks, unit, root }: { rows: WhereRow[]; marks: Map<string, TraceMark>; unit: string; root: string } =
		$props();
	const folded = $derived(foldWhere(rows, marks));
	let opened = $state<Record<string, boolean>>({});
	let shown = $state(300);
	/** What is here needs no word of how it is known: it can be looked at. */
	const gone = (state: string) => !['on hand', 'in process', 'unmarked'].includes(state);
</script>

<Table size="short">
	<TableHead
		><TableRow
			><TableHeader>Number</TableHeader><TableHeader>Item</TableHeader><TableHeader>State</TableHeader><TableHeader
				>Where</TableHeader
			><TableHeader>Document</TableHeader><TableHeader>Date</TableHeader><TableHeader>Known by</TableHeader><TableHeader
				class="num">Quantity</TableHeader
			><TableHeader class="num">From {root}</TableHeader></TableRow
		></TableHead
	>
	<TableBody>
		{#each folded.slice(0, shown) as r (r.key)}
			<TableRow>
				<TableCell>
					{#if r.first}<Tag
							kind={r.first.kind}
							number={r.first.number}
							last={r.last!.number}
							count={r.inner.length || 1}
							id={r.inner.length > 1 ? null : r.first.id}
							status={r.first.status}
						/>
					{:else}<span class="mono">run {r.run}</span>{/if}
					{#if r.inner.length > 1}<Button
							kind="ghost"
							size="small"
							class="link"
							aria-expanded={!!opened[r.key]}
							on:click={() => (opened[r.key] = !opened[r.key])}>{opened[r.key] ? 'Fold' : 'Open'}</Button
						>{/if}
				</TableCell>
				<TableCell data-label="Item">{r.first?.itemName ?? ''}</TableCell>
				<TableCell data-label="State">{r.state}</TableCell>
				<TableCell data-label="Where" data-none={!r.at || undefined}>{r.at ?? '–'}</TableCell>
				<TableCell class="mono" data-label="Document" data-none={!r.document || undefined}
					>{r.document ?? '–'}</TableCell
				>
				<TableCell data-label="Date" data-none={!r.date || undefined}>{r.date ? showWhen(r.date) : '–'}</TableCell>
				<TableCell
					class={r.known === 'scanned' ? 'soft' : ''}
					data-label="Known by"
					data-none={!gone(r.state) || undefined}>{gone(r.state) ? KNOWN_BY[r.known ?? 'unknown'] : '–'}</TableCell
				>
				<TableCell class="num" data-label="Quantity"
					>{r.qty ? `${show(r.qty)} ${unitWord(r.first?.unit ?? '')}` : '–'}</TableCell
				>
				<TableCell class="num" data-label="From {root}">{show(r.content)} {unitWord(unit)}</TableCell>
			</TableRow>
			{#if opened[r.key]}
				{#each r.inner as w (w.mark)}
					{@const m = marks.get(w.mark!)!}
					<TableRow class="inner"
						><TableCell><Tag kind={m.kind} number={m.number} id={m.id} status={m.status} /></TableCell><TableCell
							colspan={5}
							class="soft">{m.lot ? `lot ${m.lot}` : ''}</TableCell
						><TableCell class="num" data-label="Quantity">{w.qty ? show(w.qty) : ''}</TableCell><TableCell
							class="num"
							data-label="From {root}">{show(w.content)} {unitWord(unit)}</TableCell
						></TableRow
					>
				{/each}
			{/if}
		{:else}<TableRow><TableCell colspan={8} class="soft">None left.</TableCell></TableRow>{/each}
	</TableBody>
</Table>
{#if folded.length > shown}<p>
		<Button kind="ghost" size="small" class="link" on:click={() => (shown += 1000)}
			>Show more: {grouped(folded.length - shown)} rows below</Button
		>
	</p>{/if}
