<script lang="ts">
	// To close an order before all of it is booked, with why; and to open it again.
	import { Button } from 'carbon-components-svelte';
	import Text from '../fields/Text.svelte';
	import Question from '../shell/Question.svelte';
	import type { Sheet } from './sheet.svelte';
	let { sheet, may }: { sheet: Sheet; may: boolean } = $props();
	const s = $derived(sheet.state);
	let asking = $state(false);
	let reason = $state('');
	const verb = $derived(s.closedShort ? 'Open again' : 'Close short');
</script>

{#if s.closedShort || (may && !s.closedAt)}
	<p class="soft">
		{#if s.closedShort}Closed before it was complete: {s.closedShort}{/if}
		{#if may}<Button kind="ghost" size="small" class="link" on:click={() => (asking = true)}>{verb}…</Button>{/if}
	</p>
{/if}
{#if asking}
	<Question
		title="{verb}: {s.code}"
		{verb}
		disabled={!reason.trim()}
		ondo={async () => {
			// Refused, the reason stays for the next try.
			if (await sheet.closeShort(reason.trim(), !!s.closedShort)) reason = '';
		}}
		onleave={() => (asking = false)}
	>
		<Text
			label={s.closedShort ? 'Why it goes on' : 'Why no more of it comes, is made or goes'}
			bind:value={reason}
			maxlength="1000"
		/>
	</Question>
{/if}

<style>
	p {
		margin: 0.25rem 0 0.75rem;
	}
</style>
