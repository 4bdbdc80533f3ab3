<script lang="ts">
	// A device that stands in for a real one: how it is, and what can be done to it.
	import type { Snippet } from 'svelte';
	import Checkmark from 'carbon-icons-svelte/lib/Checkmark.svelte';
	import WarningAlt from 'carbon-icons-svelte/lib/WarningAlt.svelte';
	interface Props {
		title: string;
		/** nothing keeps it from its work */
		good: boolean;
		/** how it is, in words */
		says: Snippet;
		/** what can be done to it */
		acts?: Snippet;
	}
	let { title, good, says, acts }: Props = $props();
</script>

<section class="panel">
	<h2>{title}</h2>
	<p class:good>
		{#if good}<Checkmark size={16} />{:else}<WarningAlt size={16} />{/if}
		<span>{@render says()}</span>
	</p>
	{@render acts?.()}
</section>

<style>
	section {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	p {
		display: flex;
		align-items: center;
		gap: 0.35rem;
		color: var(--red);
		margin: 0 0 0.5rem;
	}
	p.good {
		color: var(--green);
	}
</style>
