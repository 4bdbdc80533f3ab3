<script lang="ts">
	// A question before an act: Carbon's modal with a form in it. Its first field takes the focus; Escape, Cancel or a press
	// beside it leaves everything as it was, and the focus goes back to where it came from.
	import type { Snippet } from 'svelte';
	import { enhance } from '$app/forms';
	import { Button, Modal } from 'carbon-components-svelte';
	import type { Fault } from '$lib/core/problem/problem';
	import Faults from './Faults.svelte';
	import { opened } from './focus';
	interface Props {
		title: string;
		/** what the button says */
		verb: string;
		/** the act of the page that the form is sent to */
		action?: string;
		/** what is done instead, where the page itself does it and says what came of it */
		ondo?: () => Promise<unknown>;
		/** another way to do it */
		second?: { verb: string; ondo: () => Promise<unknown> };
		disabled?: boolean;
		wide?: boolean;
		onleave: () => void;
		children: Snippet;
	}
	let { title, verb, action, ondo, second, disabled = false, wide = false, onleave, children }: Props = $props();
	let faults = $state<Fault[]>([]);
</script>

<Modal open passiveModal hideCloseButton size={wide ? undefined : 'sm'} modalHeading={title} on:close={onleave}>
	<form
		method="POST"
		{action}
		{@attach opened}
		use:enhance={({ cancel }) => {
			if (ondo) {
				cancel();
				void ondo();
				return onleave();
			}
			return async ({ update, result }) => {
				// What is refused is said here, beside what was typed.
				faults = result.type === 'failure' ? ((result.data?.faults ?? []) as Fault[]) : [];
				if (faults.length) return;
				await update({ reset: false });
				if (result.type === 'success') onleave();
			};
		}}
	>
		<Faults {faults} />
		<div class="fields">{@render children()}</div>
		<div class="verbs">
			<Button kind="ghost" size="small" on:click={onleave}>Cancel</Button>
			{#if second}<Button
					kind="tertiary"
					size="small"
					{disabled}
					on:click={() => {
						void second.ondo();
						onleave();
					}}>{second.verb}</Button
				>{/if}
			<Button size="small" type="submit" {disabled}>{verb}</Button>
		</div>
	</form>
</Modal>

<style>
	form {
		padding-bottom: 0.25rem;
	}
	.verbs {
		display: flex;
		justify-content: flex-end;
		gap: 0.5rem;
		margin-top: 1.25rem;
	}
</style>
