<script lang="ts">
	// A payment or an invoice that a program of others made: its number is noted.
	import { grouped } from '$lib/core/quantity/sign';
	import { movedOf } from '$lib/core/sheet/progress';
	import { rest, show } from '$lib/core/quantity/quantity';
	import { unitWord } from '$lib/core/quantity/units';
	import DayField from '../fields/DayField.svelte';
	import Quantity from '../fields/Quantity.svelte';
	import Text from '../fields/Text.svelte';
	import Question from '../shell/Question.svelte';
	import type { Sheet } from './sheet.svelte';
	interface Props {
		sheet: Sheet;
		what: 'payment' | 'invoice';
		onleave: () => void;
	}
	let { sheet, what, onleave }: Props = $props();
	let number = $state('');
	let dated = $state('');
	const goods = $derived(sheet.state.lines.filter((l) => l.role === 'goods'));
	// svelte-ignore state_referenced_locally
	let qty = $state<Record<number, string>>(
		Object.fromEntries(
			goods.map((l) => {
				const open = rest(movedOf(l), l.invoiced);
				return [l.no, open === '0' ? '' : open];
			})
		)
	);
	const lines = $derived(goods.flatMap((l) => (qty[l.no]?.trim() ? [{ no: l.no, qty: qty[l.no].trim() }] : [])));
	const keep = () =>
		sheet.note({
			...{ what, number: number.trim(), ...(dated.trim() ? { dated: dated.trim() } : {}) },
			...(what === 'invoice' ? { lines } : {})
		});
</script>

<Question
	title={what === 'payment' ? `Note a payment of ${sheet.state.code}` : `Note an invoice of ${sheet.state.code}`}
	verb="Note it"
	disabled={!number.trim() || (what === 'invoice' && !lines.length)}
	ondo={keep}
	{onleave}
>
	<Text
		label={what === 'payment' ? 'How, or its number' : 'Number of the invoice'}
		bind:value={number}
		maxlength="60"
	/>
	<DayField label="On" bind:value={dated} placeholder="today" />
	{#if what === 'invoice'}
		{#each goods as l (l.no)}<Quantity
				label="Line {l.no}, {l.itemName}: of {show(movedOf(l))} {unitWord(l.unit)}, {grouped(l.invoiced)} invoiced"
				decimals={l.decimals}
				ch={10}
				bind:value={qty[l.no]}
			/>{/each}
	{/if}
</Question>
