<script lang="ts">
	// What a form's act came to: what is wrong, or what was done.
	import type { Fault } from '$lib/core/problem/problem';
	import Faults from './Faults.svelte';
	import Message from './Message.svelte';
	let { form }: { form: object | null | undefined } = $props();
	const faults = $derived(form && 'faults' in form ? (form.faults as Fault[] | undefined) : undefined);
	const said = $derived(form && 'said' in form ? String(form.said) : '');
</script>

<Faults faults={faults ?? []} />
<div aria-live="polite">
	{#key form}{#if said}<Message kind="success">{said}</Message>{/if}{/key}
</div>
