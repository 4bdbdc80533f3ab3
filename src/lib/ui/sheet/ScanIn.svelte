<script lang="ts">
	// A number that is scanned or typed into a document whose lines come by themselves.
	import type { Snippet } from 'svelte';
	import { Button } from 'carbon-components-svelte';
	import Text from '../fields/Text.svelte';
	import { sound } from '../scan/scanner';
	import type { Sheet } from './sheet.svelte';
	/** `more`: what else is asked at the head of the document */
	let { sheet, more }: { sheet: Sheet; more?: Snippet } = $props();
	let text = $state('');
	let said = $state<{ taken: boolean; said: string } | null>(null);
	async function enter(e: SubmitEvent) {
		e.preventDefault();
		const given = text.trim();
		if (!given) return;
		text = '';
		said = await sheet.scan(given, null, null);
		if (said) sound(said.taken ? 'good' : 'bad');
		// What was refused is typed again more easily than from the beginning.
		if (said && !said.taken && !text) text = given;
	}
</script>

<form class="panel" onsubmit={enter}>
	<Text label="Scan or type a number" mono ch={24} bind:value={text} maxlength="200" autocomplete="off" />
	<Button type="submit" kind="ghost" size="small">Enter it</Button>
	{@render more?.()}
	<span class="said" class:bad={said && !said.taken} aria-live="polite">{said?.said ?? ''}</span>
</form>

<style>
	form {
		display: flex;
		flex-wrap: wrap;
		align-items: flex-end;
		gap: 0.5rem 0.75rem;
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.said {
		line-height: 32px;
		color: var(--ink-soft);
	}
	.bad {
		color: var(--red);
	}
</style>
