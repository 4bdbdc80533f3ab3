<script lang="ts">
	// Where it is now. Serials of one item, place and paper fold into ranges.
	import { foldWhere } from '$lib/core/trace/fold';
	import type { TraceMark, WhereRow } from '$lib/core/trace/view';
	import Tag from '../tag/Tag.svelte';

	let { rows, marks, unit, root }: { rows: WhereRow[]; marks: Map<string, TraceMark>; unit: string; root: string } =
		$props();
	const folded = $derived(foldWhere(rows, marks));
	let opened = $state<Record<string, boolean>>({});
	let shown = $state(300);
</script>

<table class="rows">
	<thead
		><tr
			><th>Number</th><th>Item</th><th>State</th><th>Where</th><th>Document</th><th>Date</th><th class="num"
				>Quantity</th
			><th class="num">Of it {root}</th></tr
		></thead
	>
	<tbody>
		{#each folded.slice(0, shown) as r (r.key)}
			<tr>
				<td>
					{#if r.first}<Tag
							kind={r.first.kind}
							number={r.first.number}
							last={r.last!.number}
							count={r.inner.length || 1}
							id={r.inner.length > 1 ? null : r.first.id}
							status={r.first.status}
						/>
					{:else}<span class="mono">run {r.run}</span>{/if}
					{#if r.inner.length > 1}<button
							class="link"
							aria-expanded={!!opened[r.key]}
							onclick={() => (opened[r.key] = !opened[r.key])}>{opened[r.key] ? 'Fold' : 'Open'}</button
						>{/if}
				</td>
				<td>{r.first?.itemName ?? ''}</td>
				<td>{r.state}</td>
				<td>{r.at ?? '–'}</td>
				<td class="mono">{r.document ?? '–'}</td>
				<td>{r.date ?? '–'}</td>
				<td class="num">{r.qty ? `${r.qty} ${r.first?.unit ?? ''}` : '–'}</td>
				<td class="num">{r.content} {unit}</td>
			</tr>
			{#if opened[r.key]}
				{#each r.inner as w (w.mark)}
					{@const m = marks.get(w.mark!)!}
					<tr class="inner"
						><td><Tag kind={m.kind} number={m.number} id={m.id} status={m.status} /></td><td colspan="5" class="soft"
							>{m.lot ? `lot ${m.lot}` : ''}</td
						><td class="num">{w.qty}</td><td class="num">{w.content} {unit}</td></tr
					>
				{/each}
			{/if}
		{:else}<tr><td colspan="8" class="soft">There is none of it anywhere.</td></tr>{/each}
	</tbody>
</table>
{#if folded.length > shown}<p>
		<button class="link" onclick={() => (shown += 1000)}
			>Show more: {(folded.length - shown).toLocaleString('en')} rows below</button
		>
	</p>{/if}

<style>
	.inner td:first-child {
		padding-left: 2rem;
	}
</style>
