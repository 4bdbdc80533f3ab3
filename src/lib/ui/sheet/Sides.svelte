<script lang="ts">
	// Which of a document's two sides is recorded now. It stays what it is until somebody says otherwise.
	import { ContentSwitcher, Switch } from 'carbon-components-svelte';
	import type { Sheet } from './sheet.svelte';
	let {
		sheet,
		words,
		second
	}: {
		sheet: Sheet;
		/** the two sides, in their order */
		words: readonly [string, string];
		/** the second is recorded */
		second: boolean;
	} = $props();
	const modes = ['use', 'output'] as const;
	const now = $derived(second ? 1 : 0);
</script>

<ContentSwitcher
	size="sm"
	aria-label="What is recorded now"
	selectedIndex={now}
	on:change={(e) => e.detail !== now && sheet.setMode(modes[e.detail])}
>
	{#each words as word (word)}<Switch text={word} />{/each}
</ContentSwitcher>
