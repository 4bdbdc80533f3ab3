<script lang="ts">
	// Where it is now. Serials of one item, place and paper fold into ranges.
	import { compress, expand } from '$lib/core/ranges/ranges';
	import { roundToTotal, show } from '$lib/core/quantity/quantity';
	import type { TraceMark, WhereRow } from '$lib/core/trace/view';
	import Fraction from 'fraction.js';
	import Tag from '../tag/Tag.svelte';

	let { rows, marks, unit, root }: { rows: WhereRow[]; marks: Map<string, TraceMark>; unit: string; root: string } =
		$props();
	interface Row extends WhereRow {
		key: string;
		first: TraceMark | null;
		last: TraceMark | null;
		inner: WhereRow[];
	}
	const plain = (t: string) => t.replaceAll(',', '');
	const folded = $derived.by((): Row[] => {
		const out: Row[] = [];
		const serials = new Map<string, WhereRow[]>();
		rows.forEach((w, i) => {
			const m = w.mark ? marks.get(w.mark)! : null;
			if (m?.kind === 'serial') {
				const key = [m.item, w.state, w.at, w.document, w.date].join('\n');
				serials.set(key, [...(serials.get(key) ?? []), w]);
			} else out.push({ ...w, key: `${i}`, first: m, last: m, inner: [] });
		});
		for (const [key, list] of serials) {
			const by = new Map(list.map((w) => [marks.get(w.mark!)!.number, w]));
			for (const r of compress(by.keys())) {
				const inner = expand(r.first, r.count).map((n) => by.get(n)!);
				const content = inner.reduce((s, w) => s.add(plain(w.content)), new Fraction(0));
				out.push({
					...inner[0],
					key: key + r.first,
					first: marks.get(inner[0].mark!)!,
					last: marks.get(inner[inner.length - 1].mark!)!,
					inner,
					qty: show(String(inner.length)),
					content: show(roundToTotal([content], 6)[0])
				});
			}
		}
		const order = ['on hand', 'in process', 'shipped', 'unmarked', 'scrapped', 'adjusted', 'sent back'];
		return out.sort(
			(a, b) =>
				order.indexOf(a.state) - order.indexOf(b.state) ||
				(a.at ?? '').localeCompare(b.at ?? '') ||
				(a.first?.number ?? '').localeCompare(b.first?.number ?? '', 'en', { numeric: true })
		);
	});
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
