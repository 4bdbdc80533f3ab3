<script lang="ts" module>
	export interface Candidate {
		mark: string;
		kind: 'lot' | 'serial' | 'unmarked';
		number: string;
		place: string;
		qty: string;
		free: string;
		expiresOn: string | null;
		status: string;
		/** why it may not be taken, in words */
		stopped: string | null;
	}
</script>

<script lang="ts">
	// What there is of an item, wherever it lies.
	import { show } from '$lib/core/quantity/quantity';
	import type { PickRow, SheetLine } from '$lib/core/sheet/sheet';
	import Tag from '../tag/Tag.svelte';

	interface Props {
		code: string;
		line: SheetLine;
		taken: PickRow[];
		/** changes when the sheet does */
		stamp: string;
		ontake: (c: Candidate) => void;
	}
	let { code, line, taken, stamp, ontake }: Props = $props();
	let all = $state<Candidate[]>([]);
	let total = $state(0);
	let q = $state('');
	let said = $state('');

	$effect(() => {
		void stamp;
		const search = q.trim();
		const timer = setTimeout(async () => {
			const answer = await fetch(
				`/orders/${encodeURIComponent(code)}/stock?line=${line.id}&q=${encodeURIComponent(search)}`,
				{ headers: { accept: 'application/json' } }
			);
			if (!answer.ok) return void (said = 'The list could not be read. Try again.');
			({ stock: all, total } = await answer.json());
			said = '';
		}, 120);
		return () => clearTimeout(timer);
	});
	const isTaken = (c: Candidate) => taken.some((p) => p.id && p.mark === c.mark && p.place === c.place);
</script>

<div class="list">
	<label class="field"
		>Find in {line.itemName}<input
			class="plain mono"
			bind:value={q}
			placeholder="number or place"
			size="20"
			maxlength="60"
			autocomplete="off"
		/></label
	>
	<table class="rows">
		<thead
			><tr
				><th>There is</th><th>Place</th><th>Expires</th><th class="num">On hand</th><th class="num">Free</th><th
				></th></tr
			></thead
		>
		<tbody>
			{#each all as c (c.mark + c.place)}
				<tr>
					<td
						><Tag
							kind={c.kind}
							number={c.number}
							id={c.mark}
							item={line.itemName}
							status={c.status}
							expiresOn={c.expiresOn}
						/></td
					>
					<td class="mono">{c.place}</td>
					<td>{c.expiresOn ?? '–'}</td>
					<td class="num">{show(c.qty)}</td>
					<td class="num">{show(c.free)}</td>
					<td class="num">
						{#if isTaken(c)}<span class="soft">taken</span>
						{:else if c.stopped}<span class="soft">{c.stopped}</span>
						{:else}<button class="link" onclick={() => ontake(c)}
								>Take<span class="visually-hidden"> {c.number}</span></button
							>{/if}
					</td>
				</tr>
			{:else}<tr><td colspan="6" class="soft">{said || 'Nothing of it is on hand here.'}</td></tr>{/each}
		</tbody>
	</table>
	{#if total > all.length}<p class="soft">
			{all.length} of {total.toLocaleString('en')} shown. Type to narrow it down.
		</p>{/if}
</div>

<style>
	.list {
		margin: 0.25rem 0.75rem 0.75rem 2rem;
		border-left: 3px solid var(--amber);
		padding-left: 0.75rem;
	}
	label {
		align-items: flex-start;
		margin-bottom: 0.4rem;
	}
	p {
		margin: 0.3rem 0.75rem;
	}
</style>
