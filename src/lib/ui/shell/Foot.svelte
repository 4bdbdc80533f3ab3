<script lang="ts">
	// The bar at the foot of the page of something that is entered: what is missing, and one button with the verb of the job.
	import type { Snippet } from 'svelte';
	interface Props {
		/** what is missing, in words */
		children: Snippet;
		/** what is asked before, and the button */
		act?: Snippet;
	}
	let { children, act }: Props = $props();
</script>

<div class="foot" role="region" aria-label="What is missing">
	<div class="list" aria-live="polite">{@render children()}</div>
	{@render act?.()}
</div>

<style>
	.foot {
		position: fixed;
		inset: auto 0 0 72px;
		z-index: 10;
		min-height: 60px;
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.5rem 1rem;
		padding: 0.5rem 1.5rem;
		box-sizing: border-box;
		background: var(--paper);
		border-top: 1px solid var(--rule);
	}
	.list {
		flex: 1;
		display: flex;
		flex-wrap: wrap;
		gap: 0.2rem 1.1rem;
		align-items: baseline;
		font-size: 0.8125rem;
		min-width: 14rem;
		max-height: 5.5rem;
		overflow: auto;
	}
	.list > :global(*) {
		flex: 0 1 auto;
		width: fit-content;
	}
	.list > :global(.stop) {
		color: var(--red);
	}
	.list > :global(.good) {
		color: var(--green);
	}
	@media (max-width: 640px) {
		.foot {
			inset: auto 0 0 0;
			padding: 0.5rem 0.75rem;
		}
		.foot :global(.bx--btn) {
			flex: 1 0 100%;
			max-width: none;
		}
	}
</style>
