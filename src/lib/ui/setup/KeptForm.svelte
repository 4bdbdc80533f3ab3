<script lang="ts">
	// A form whose fields stay as they are typed, whatever comes of it; what came of it stands above.
	import type { Snippet } from 'svelte';
	import { enhance } from '$app/forms';
	import type { Fault } from '$lib/core/problem/problem';
	import Faults from '../shell/Faults.svelte';
	let { form, children }: { form: object | null; children: Snippet } = $props();
	const faults = $derived(form && 'faults' in form ? ((form.faults as Fault[]) ?? []) : []);
	const said = $derived(form && 'said' in form ? String(form.said) : '');
</script>

<Faults {faults} />
{#if said}<p role="status">{said}</p>{/if}
<form
	method="POST"
	use:enhance={() =>
		({ update }) =>
			update({ reset: false })}
>
	{@render children()}
</form>
