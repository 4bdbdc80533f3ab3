<script lang="ts">
	// To close an order before all of it is booked, with why; to open it again; and to give back what a batch did not use,
	// by itself or as it is closed.
	import { Button } from 'carbon-components-svelte';
	import { isZero } from '$lib/core/quantity/quantity';
	import type { LeftOver } from '$lib/core/sheet/sheet';
	import Text from '../fields/Text.svelte';
	import Question from '../shell/Question.svelte';
	import GiveBack from './GiveBack.svelte';
	import type { Sheet } from './sheet.svelte';
	interface Props {
		sheet: Sheet;
		may: boolean;
		/** may book, and so give back; where it may go */
		mayGiveBack?: boolean;
		bins?: readonly string[];
	}
	let { sheet, may, mayGiveBack = false, bins = [] }: Props = $props();
	const s = $derived(sheet.state);
	const left = $derived((mayGiveBack && s.leftOver) || []);
	let asking = $state<'' | 'close' | 'open' | 'back'>('');
	let reason = $state('');
	let back = $state<Record<string, { qty: string; place: string }>>({});
	const closes = $derived(may && !s.closedAt);
	const rows = $derived(
		Object.entries(back).flatMap(([mark, { qty, place }]) => (qty.trim() ? [{ mark, qty, place }] : []))
	);
	const VERBS = { close: 'Close incomplete', open: 'Open again', back: 'Give back' };
	function ask(what: 'close' | 'open' | 'back') {
		// Once no more is made, what is more than the parts list asks for what came out is what a person would give back.
		const over = (l: LeftOver) => (what === 'close' && !isZero(l.over) ? l.over : '');
		back = Object.fromEntries(left.map((l) => [l.mark, { qty: over(l), place: l.place }] as const));
		asking = what;
	}
	async function go() {
		const what = asking;
		if (what !== 'open' && rows.length && !(await sheet.giveBack(rows, reason.trim()))) return;
		// Refused, the reason stays for the next try.
		if (what === 'back' || (await sheet.closeShort(reason.trim(), what === 'open'))) reason = '';
	}
</script>

{#if s.closedShort || closes || left.length}
	<p class="soft ends">
		{#if s.closedShort}Closed before it was complete: {s.closedShort}{/if}
		{#if s.closedShort && may}<Button kind="ghost" size="small" class="link" on:click={() => ask('open')}
				>Open again…</Button
			>{/if}
		{#if closes}<Button kind="ghost" size="small" class="link" on:click={() => ask('close')}>Close incomplete…</Button
			>{/if}
		{#if left.length}<Button kind="ghost" size="small" class="link" on:click={() => ask('back')}
				>Give back what was not used…</Button
			>{/if}
	</p>
{/if}
{#if asking}
	<Question
		title="{VERBS[asking]}: {s.code}"
		verb={VERBS[asking]}
		wide={left.length > 0 && asking !== 'open'}
		disabled={asking === 'back' ? !rows.length : !reason.trim()}
		ondo={go}
		onleave={() => (asking = '')}
	>
		{#if asking !== 'back'}
			<Text
				label={asking === 'open' ? 'Why it goes on' : 'Why no more of it comes, is made or goes'}
				bind:value={reason}
				maxlength="1000"
			/>
		{/if}
		{#if left.length && asking !== 'open'}
			{#if asking === 'close'}<p class="soft whole">
					What goes back of what went in; the rest is in what came out.
				</p>{/if}
			<GiveBack {left} {bins} bind:back />
		{/if}
	</Question>
{/if}

<style>
	p {
		margin: 0.25rem 0 0.75rem;
	}
	.ends {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 1.5rem;
	}
	.whole {
		flex-basis: 100%;
		margin-bottom: 0;
	}
</style>
