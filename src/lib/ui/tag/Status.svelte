<script lang="ts">
	import { page } from '$app/state';
	import { dayIn } from '$lib/core/time/clock';
	import PauseOutline from 'carbon-icons-svelte/lib/PauseOutline.svelte';
	import Misuse from 'carbon-icons-svelte/lib/Misuse.svelte';
	import Hourglass from 'carbon-icons-svelte/lib/Hourglass.svelte';
	let { status = 'released', expiresOn = null }: { status?: string; expiresOn?: string | null } = $props();
	// The day where the firm is: every page of the application knows its time zone.
	const today = $derived(dayIn(page.data.zone ?? 'UTC', new Date()));
	const expired = $derived(!!expiresOn && expiresOn < today);
</script>

{#if status === 'held' || status === 'quarantine'}
	<span class="status stop"><PauseOutline size={16} />{status === 'held' ? 'on hold' : 'quarantine'}</span>
{:else if status === 'rejected'}
	<span class="status stop"><Misuse size={16} />rejected</span>
{/if}
{#if expired}<span class="status stop"><Hourglass size={16} />expired</span>{/if}

<style>
	.status {
		display: inline-flex;
		align-items: center;
		gap: 0.2rem;
		font:
			0.75rem/1.3 'IBM Plex Sans',
			system-ui,
			sans-serif;
		white-space: nowrap;
	}
	.stop {
		color: var(--red);
	}
</style>
