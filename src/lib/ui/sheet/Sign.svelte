<script lang="ts">
	// Somebody signs: to the firm's terms, or for what is handed over.
	import { Checkbox } from 'carbon-components-svelte';
	import { isSigned, type Stroke } from '$lib/core/sheet/ink';
	import { numbersToCome } from '$lib/core/sheet/progress';
	import Text from '../fields/Text.svelte';
	import Question from '../shell/Question.svelte';
	import Ink from './Ink.svelte';
	import type { Sheet } from './sheet.svelte';
	interface Props {
		sheet: Sheet;
		/** the event by which it was handed over; null for the terms */
		event: string | null;
		onleave: () => void;
	}
	let { sheet, event, onleave }: Props = $props();
	let signer = $state('');
	let strokes = $state<Stroke[]>([]);
	let without = $state(false);
	const code = $derived(sheet.state.code);
	const toCome = $derived(event ? [] : sheet.state.lines.filter((l) => numbersToCome(l) !== '0'));
	const ready = $derived(signer.trim() !== '' && isSigned(strokes) && (!toCome.length || without));
	const keep = () =>
		sheet.sign({
			...(event ? { meaning: 'receipt' as const, event } : { meaning: 'terms' as const, withoutNumber: without }),
			...{ signer: signer.trim(), strokes }
		});
</script>

<Question
	title={event ? `Sign for what was handed over on ${code}` : `Sign the terms of sale of ${code}`}
	verb="Keep the signature"
	disabled={!ready}
	ondo={keep}
	{onleave}
	wide
>
	{#if !event}<p class="terms">
			<a href="/orders/{encodeURIComponent(code)}/terms" target="_blank" rel="noopener">Read the terms (PDF)</a>
		</p>{/if}
	<Text label="Name of who signs" bind:value={signer} maxlength="100" />
	<Ink bind:strokes />
	{#if toCome.length}<div class="without">
			<Checkbox
				labelText="Go on without a number: none is chosen or promised yet for {toCome
					.map((l) => l.itemName)
					.join(', ')}"
				bind:checked={without}
			/>
		</div>{/if}
</Question>

<style>
	.terms,
	.without {
		flex: 1 0 100%;
		margin: 0;
	}
</style>
