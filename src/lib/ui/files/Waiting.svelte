<script lang="ts">
	// Work that takes its time: what is being done, for how long, and how to stop it.
	import { onMount, untrack } from 'svelte';
	import { Button, InlineLoading } from 'carbon-components-svelte';
	interface Props {
		/** the name under which the server says what it is doing */
		work: string;
		first?: string;
		/** what is done here, in place of what the server says */
		now?: string | null;
		/** stops what is done here too */
		onstop?: () => void;
	}
	let { work, first = 'Reading the ledger', now = null, onstop }: Props = $props();
	let said = $state(untrack(() => first));
	let seconds = $state(0);
	let stopped = $state(false);
	const at = $derived(`/work/${work}`);
	const stop = () => fetch(at, { method: 'DELETE', keepalive: true }).catch(() => null);
	onMount(() => {
		const began = Date.now();
		const timer = setInterval(async () => {
			seconds = Math.floor((Date.now() - began) / 1000);
			const answer = await fetch(at).catch(() => null);
			if (answer?.ok) said = ((await answer.json()) as { said: string | null }).said ?? said;
		}, 1000);
		return () => {
			clearInterval(timer);
			// Whoever goes elsewhere waits for it no longer.
			if (!stopped) void stop();
		};
	});
</script>

<div class="waiting" role="status">
	<InlineLoading description={now ?? said} />
	{#if seconds > 1}<span class="soft">{seconds} s</span>{/if}
	<Button
		kind="tertiary"
		size="small"
		disabled={stopped}
		on:click={() => {
			stopped = true;
			void stop();
			onstop?.();
		}}>{stopped ? 'Stopping' : 'Stop'}</Button
	>
</div>

<style>
	.waiting {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.5rem 1rem;
		margin: 0.75rem 0;
	}
	.waiting :global(.bx--inline-loading) {
		width: auto;
	}
</style>
