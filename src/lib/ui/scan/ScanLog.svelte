<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	// What each scan did, newest first; a wrong one stands out and changed nothing.
	import Checkmark from 'carbon-icons-svelte/lib/Checkmark.svelte';
	import Close from 'carbon-icons-svelte/lib/Close.svelte';
	import type { ScanEntry } from '$lib/core/sheet/sheet';
	let { scans, onundo }: { scans: ScanEntry[]; /** where it may be taken back */ onundo?: (id: string) => void } =
		$props();
	const shown = (text: string) => text.replaceAll('\x1d', '{FNC1}');
</script>

<aside aria-label="Scans">
	<h2>Scans</h2>
	<div role="log">
		<ol>
			{#each scans as s (s.id)}
				<li class:wrong={!s.taken} class:undone={s.undone}>
					<span class="said"
						>{#if s.taken}<Checkmark size={16} />{:else}<Close size={16} />{/if}<span
							>{s.said}{s.undone ? ' (taken back)' : ''}</span
						></span
					>
					<span class="soft"
						>{s.at} · {s.by} · <span class="mono">{shown(s.text)}</span>{#if s.canUndo && onundo}{' '}
							<Button kind="ghost" size="small" class="link" on:click={() => onundo!(s.id)}
								>Undo<span class="visually-hidden"> {s.said}</span></Button
							>{/if}</span
					>
				</li>
			{/each}
		</ol>
	</div>
</aside>

<style>
	aside {
		background: var(--paper);
		border: 1px solid var(--rule);
		padding: 0.5rem 0.75rem;
		max-height: calc(100vh - 190px);
		overflow-y: auto;
		box-sizing: border-box;
	}
	h2 {
		margin: 0 0 0.25rem;
	}
	ol {
		list-style: none;
		margin: 0;
		padding: 0;
	}
	li {
		padding: 0.4rem 0;
		border-top: 1px solid var(--rule);
		font-size: 0.8125rem;
		overflow-wrap: anywhere;
	}
	.said {
		display: flex;
		gap: 0.3rem;
		color: var(--green);
		line-height: 1.35;
	}
	.said :global(svg) {
		flex: none;
		margin-top: 1px;
	}
	.wrong .said {
		color: var(--red);
		font-weight: 600;
	}
	.undone .said {
		color: var(--ink-soft);
		text-decoration: line-through;
	}
	.soft {
		font-size: 0.75rem;
	}
</style>
