<script lang="ts">
	// `?` lists the keys.
	import { Button, Modal } from 'carbon-components-svelte';
	let open = $state(false);
	const keys = [
		['/', 'go to the scan line'],
		['Enter', 'move on: to the next field, or add the row'],
		['Ctrl + Enter', 'press the button in the foot bar'],
		['Ctrl + Z, Ctrl + Y', 'take back the last act in a sheet, do it again'],
		['Ctrl + D', 'copy a cell of a sheet into every row after it'],
		['↑ ↓', 'go from row to row in a column of a sheet'],
		['Esc', 'close a list; nothing typed is lost'],
		['?', 'this list']
	];
	function press(e: KeyboardEvent) {
		const el = document.activeElement;
		const typing = !!el && /^(INPUT|SELECT|TEXTAREA)$/.test(el.tagName) && (el as HTMLInputElement).value !== '';
		if (e.key === '?' && !typing) {
			e.preventDefault();
			open = true;
		}
	}
</script>

<svelte:window onkeydown={press} />
<Button kind="ghost" size="small" class="link out" aria-label="Keys" title="Keys (?)" on:click={() => (open = true)}
	>?</Button
>
<Modal bind:open passiveModal size="xs" modalHeading="Keys">
	<dl>
		{#each keys as [key, what] (key)}<dt><kbd>{key}</kbd></dt>
			<dd>{what}</dd>{/each}
	</dl>
</Modal>

<style>
	dl {
		display: grid;
		grid-template-columns: auto 1fr;
		gap: 0.4rem 1.25rem;
		margin: 0;
	}
	dd {
		margin: 0;
	}
</style>
