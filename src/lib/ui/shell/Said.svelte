<script lang="ts">
	// What a form's act came to: what is wrong, or what was done.
	import type { Fault } from '$lib/core/problem/problem';
	import Faults from './Faults.svelte';
	let { form }: { form: object | null | undefined } = $props();
	const faults = $derived(form && 'faults' in form ? (form.faults as Fault[] | undefined) : undefined);
	const said = $derived(form && 'said' in form ? String(form.said) : '');
</script>

<Faults faults={faults ?? []} />
<div role="status">
	{#if said}<p class="said">{said}</p>{/if}
</div>

<style>
	.said {
		padding: 0.4rem 0.75rem;
		background: var(--paper);
		border-left: 3px solid var(--green);
	}
</style>
