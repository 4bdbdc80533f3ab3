<script lang="ts">
	// What the last scan came to, or what is to be scanned next: large, so that it is read at arm’s length.
	import type { Snippet } from 'svelte';
	interface Props {
		says: string;
		/** how it came out; nothing where nothing was scanned yet */
		tone: 'good' | 'bad' | '';
		/** what can be done about it */
		children?: Snippet;
	}
	let { says, tone, children }: Props = $props();
</script>

<p class="says {tone}" role="status"><span>{says}</span>{@render children?.()}</p>

<style>
	.says {
		display: flex;
		flex-wrap: wrap;
		gap: 0.25rem 1.5rem;
		margin: 0 0 0.75rem;
		padding: 0.75rem 1rem;
		background: var(--paper);
		border: 1px solid var(--rule);
		border-left: 4px solid var(--amber);
		font-size: 1rem;
	}
	.good {
		border-left-color: var(--green);
	}
	.bad {
		border-left-color: var(--red);
	}
</style>
