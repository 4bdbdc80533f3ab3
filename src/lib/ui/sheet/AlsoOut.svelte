<script lang="ts">
	// Something comes out of a batch that its parts list does not name: an off-cut, a by-product.
	import { Button } from 'carbon-components-svelte';
	import Quantity from '../fields/Quantity.svelte';
	import Seek from '../fields/Seek.svelte';
	import Question from '../shell/Question.svelte';
	import type { Sheet } from './sheet.svelte';
	let { sheet, items }: { sheet: Sheet; items: readonly (readonly [code: string, name: string])[] } = $props();
	let asking = $state(false);
	let item = $state('');
	let qty = $state('');
</script>

<Button kind="ghost" size="small" class="link" on:click={() => (asking = true)}>Something else comes out…</Button>
{#if asking}
	<Question
		title="Something else comes out of {sheet.state.code}"
		verb="Add it"
		disabled={!item.trim() || !qty.trim()}
		ondo={async () => {
			if (await sheet.addByproduct(item.trim(), qty)) item = qty = '';
		}}
		onleave={() => (asking = false)}
	>
		<Seek label="Item" options={items} bind:value={item} ch={20} />
		<Quantity label="How much is expected" ch={10} bind:value={qty} />
	</Question>
{/if}
