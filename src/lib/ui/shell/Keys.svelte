<script lang="ts">
	// `?` lists the keys.
	let dialog: HTMLDialogElement;
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
	function open(e: KeyboardEvent) {
		const el = document.activeElement;
		const typing = !!el && /^(INPUT|SELECT|TEXTAREA)$/.test(el.tagName) && (el as HTMLInputElement).value !== '';
		if (e.key === '?' && !typing) {
			e.preventDefault();
			dialog.showModal();
		}
	}
</script>

<svelte:window onkeydown={open} />
<button class="keys" aria-label="Keys" title="Keys (?)" onclick={() => dialog.showModal()}>?</button>
<dialog bind:this={dialog} aria-label="Keys">
	<h2>Keys</h2>
	<dl>
		{#each keys as [key, what] (key)}<dt><kbd>{key}</kbd></dt>
			<dd>{what}</dd>{/each}
	</dl>
	<button class="link" onclick={() => dialog.close()}>Close</button>
</dialog>

<style>
	.keys {
		width: 28px;
		height: 28px;
		border: 1px solid #52606b;
		background: none;
		color: #fff;
		cursor: pointer;
		flex: none;
	}
	dialog {
		border: 1px solid var(--tag-rule);
		background: var(--paper);
		color: var(--ink);
		padding: 1rem 1.5rem;
	}
	dl {
		display: grid;
		grid-template-columns: auto 1fr;
		gap: 0.4rem 1.25rem;
	}
	dd {
		margin: 0;
	}
</style>
