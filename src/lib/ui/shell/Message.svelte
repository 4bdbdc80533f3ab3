<script lang="ts">
	// What came of an act: Carbon's notification. What was done is heard by the live region it stands in. It takes the focus when it comes, for the button that was pressed may be
	// spent, and is scrolled to, for that may have been at the foot of a long page.
	import type { Snippet } from 'svelte';
	import { InlineNotification } from 'carbon-components-svelte';
	import { told } from './focus';
	interface Props {
		kind: 'error' | 'success';
		/** it can be put away; an error otherwise stays until it is mended */
		onclose?: () => void;
		children: Snippet;
	}
	let { kind, onclose, children }: Props = $props();
	const show = (el: HTMLElement) => {
		el.scrollIntoView({ block: 'nearest' });
		told(el);
	};
</script>

<div class="message" tabindex="-1" {@attach show}>
	<InlineNotification
		{kind}
		lowContrast
		role={kind === 'error' ? 'alert' : 'status'}
		hideCloseButton={!onclose}
		closeButtonDescription="Close"
		on:close={(e) => {
			e.preventDefault();
			onclose?.();
		}}
	>
		<div class="says">{@render children()}</div>
	</InlineNotification>
</div>

<style>
	.says {
		flex: 1;
		min-width: 0;
	}
	.message {
		margin-bottom: 0.75rem;
		scroll-margin: 60px;
	}
	.message :global(.bx--inline-notification) {
		min-width: 0;
		max-width: none;
		min-height: 36px;
		margin: 0;
		color: var(--ink);
		background: var(--paper);
	}
	.message :global(.bx--inline-notification--error) {
		background: var(--red-soft);
		border-left-color: var(--red);
	}
	.message :global(.bx--inline-notification--success) {
		border-left-color: var(--green);
	}
	.message :global(.bx--inline-notification::before) {
		border-color: var(--rule);
		filter: none;
	}
	.message :global(.bx--inline-notification__details) {
		margin: 0 0.75rem;
	}
	.message :global(.bx--inline-notification__icon) {
		margin: 8px 0.6rem 0 0;
	}
	.message :global(.bx--inline-notification--error .bx--inline-notification__icon) {
		fill: var(--red);
	}
	.message :global(.bx--inline-notification--success .bx--inline-notification__icon) {
		fill: var(--green);
	}
	.message :global(.bx--inline-notification__text-wrapper) {
		flex: 1;
		padding: 8px 0;
		min-width: 0;
	}
	.message :global(.bx--inline-notification__close-button) {
		min-width: 36px;
		min-height: 36px;
		height: 36px;
	}
	.message :global(.bx--inline-notification__close-icon) {
		fill: var(--ink);
	}
</style>
