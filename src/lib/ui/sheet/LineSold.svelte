<script lang="ts">
	// What is agreed of a line that sells, and which numbers of it have gone: each may be swapped for another.
	import { Button } from 'carbon-components-svelte';
	import { sayDuration } from '$lib/core/dates/dates';
	import { showDay } from '$lib/ui/dates';
	import { show } from '$lib/core/quantity/quantity';
	import { grouped } from '$lib/core/quantity/sign';
	import type { Gone, SheetLine } from '$lib/core/sheet/sheet';
	import Choose from '../fields/Choose.svelte';
	import Text from '../fields/Text.svelte';
	import Tag from '../tag/Tag.svelte';
	import Question from '../shell/Question.svelte';
	import Candidates, { type Candidate } from './Candidates.svelte';
	import type { Sheet } from './sheet.svelte';
	interface Props {
		sheet: Sheet;
		line: SheetLine;
		/** may what is agreed be changed, and what has gone be swapped */
		may: boolean;
	}
	let { sheet, line, may }: Props = $props();
	const sold = $derived(line.sold!);
	// What has gone has gone with what was agreed then.
	const shut = $derived(!may || !!sheet.state.closedAt || sold.handed !== '0');
	const LASTS = ['P12M', 'P24M', 'P36M', 'P48M', 'P60M'];
	const own = $derived(sold.itemWarranty ? sayDuration(sold.itemWarranty) : 'none');
	const lasts = $derived(sold.warranty ?? '');
	const options = $derived<[string, string][]>([
		['', own],
		...[...new Set([...LASTS, ...(lasts ? [lasts] : [])])]
			.filter((d) => d !== sold.itemWarranty)
			.map((d): [string, string] => [d, sayDuration(d)])
	]);
	let swapping = $state<Gone | null>(null);
	/** what was chosen to go in its place */
	let into = $state<Candidate | null>(null);
	let reason = $state('');
	const last = $derived(
		[...new Set(sold.gone.flatMap((g) => g.warrantyUntil ?? []))].sort((a, b) => a.localeCompare(b))
	);
</script>

{#if !shut || lasts || sold.itemWarranty || sold.price}<div class="agreed">
		{#if shut}
			{#if lasts || sold.itemWarranty}<span class="soft">Warranty</span><span>{lasts ? sayDuration(lasts) : own}</span
				>{/if}
			{#if sold.price}<span class="soft">Price</span><span>{sold.price}</span>{/if}
		{:else}
			<span class="soft" aria-hidden="true">Warranty</span>
			<Choose
				label="Warranty, line {line.no}"
				hide
				{options}
				value={lasts}
				onpick={(warranty) => sheet.agree({ line: line.id, warranty })}
			/>
			<span class="soft" aria-hidden="true">Price</span>
			<Text
				label="Price, line {line.no}"
				hide
				shown={sold.price}
				ch={14}
				maxlength="40"
				placeholder="as agreed"
				onchange={(e) => sheet.agree({ line: line.id, price: e.currentTarget.value.trim() })}
			/>
		{/if}
	</div>{/if}
{#if sold.gone.length}
	<div class="gone">
		<span class="soft"
			>Handed over{last.length
				? `, warranty until ${showDay(last[0])}${last.length > 1 ? ` to ${showDay(last[last.length - 1])}` : ''}`
				: ''}:</span
		>
		{#each sold.gone as g (g.mark)}
			<span class="one"
				><Tag kind={g.kind} number={g.number} id={g.mark} item={line.itemName} />{#if g.kind !== 'serial'}<span
						>{show(g.qty)}</span
					>{/if}{#if g.replaces}<span class="soft">replaces {g.replaces}</span>{/if}
				{#if may && g.kind !== 'unmarked'}<Button
						kind="ghost"
						size="small"
						class="link"
						aria-expanded={swapping === g}
						on:click={() => (swapping = swapping === g ? null : g)}
						>Swap…<span class="visually-hidden"> {g.number}, which was handed over</span></Button
					>{/if}</span
			>
		{/each}
		{#if sold.numbers > sold.gone.length}<span class="soft"
				>and {grouped(sold.numbers - sold.gone.length)} more: find one by its number to take it back</span
			>{/if}
	</div>
	{#if swapping}
		{@const out = swapping}
		<div class="swap">
			{out.number} comes back to {out.from}. What goes in its place? Scan it, or take it from the list.
		</div>
		<Candidates
			code={sheet.state.code}
			mode="use"
			{line}
			taken={[]}
			except={out.mark}
			stamp={sheet.state.stamp}
			ontake={(c) => (into = c)}
			scans
		/>
		{#if into}
			{@const instead = into}
			<Question
				title="Swap {out.number} for {instead.number}"
				verb="Swap"
				ondo={async () => {
					// Refused, the reason stays for the next try.
					if (await sheet.swap(line.id, { mark: out.mark }, instead, reason.trim())) [swapping, reason] = [null, ''];
				}}
				onleave={() => (into = null)}
			>
				<p>
					{out.number} comes back to {out.from}, and {instead.number} goes from {instead.place} in its place: both are booked
					now.
				</p>
				<Text label="Why, where that is asked" ch={30} bind:value={reason} maxlength="1000" />
			</Question>
		{/if}
	{/if}
{/if}

<style>
	.agreed {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 0.5rem;
		align-items: center;
		padding: 0.25rem 0.75rem 0.5rem;
		font-size: 0.8125rem;
	}
	.agreed :global(.choose) {
		margin-right: 1rem;
	}
	.gone {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 1rem;
		align-items: center;
		padding: 0.4rem 0.75rem;
	}
	.one {
		display: inline-flex;
		gap: 0.4rem;
		align-items: center;
	}
	.swap {
		margin: 0.25rem 0.75rem 0 2rem;
		font-weight: 600;
	}
</style>
