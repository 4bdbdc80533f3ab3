<script lang="ts">
	// A link to a file that may take its time: while it is made it says what is being done and can be stopped; then it is saved.
	import type { Snippet } from 'svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	import Waiting from './Waiting.svelte';
	let { href, children }: { href: string; children: Snippet } = $props();
	let work = $state<string | null>(null);
	let faults = $state<{ message: string }[]>([]);

	async function make(event: MouseEvent) {
		// In another tab it is a page like others.
		if (event.ctrlKey || event.metaKey || event.shiftKey) return;
		event.preventDefault();
		if (work) return;
		work = crypto.randomUUID();
		faults = [];
		try {
			const answer = await fetch(`${href}${href.includes('?') ? '&' : '?'}work=${work}`);
			if (answer.ok) save(await answer.blob(), answer.headers.get('content-disposition') ?? '');
			else {
				const refused = await answer.json();
				faults = refused.errors ?? [{ message: refused.title }];
			}
		} catch {
			faults = [{ message: 'The server does not answer. Try again.' }];
		} finally {
			work = null;
		}
	}
	function save(file: Blob, disposition: string) {
		const link = document.createElement('a');
		link.href = URL.createObjectURL(file);
		link.download = /filename="([^"]+)"/.exec(disposition)?.[1] ?? '';
		link.click();
		// When it is surely on its way.
		setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
	}
</script>

<span class="file">
	<a {href} onclick={make}>{@render children()}</a>
	{#if work}<Waiting {work} first="Beginning" />{/if}
	<Faults {faults} onclose={() => (faults = [])} />
</span>

<style>
	.file {
		display: inline-flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.25rem 0.75rem;
	}
	.file :global(.waiting) {
		margin: 0;
	}
</style>
