<script lang="ts">
	// A form whose fields stay as they are typed, whatever comes of it; what came of it stands above, "Saved" only for
	// as long as it is true: until a field is changed again.
	import type { Snippet } from 'svelte';
	import { enhance } from '$app/forms';
	import Said from '../shell/Said.svelte';
	let { form, action, children }: { form: object | null; action?: string; children: Snippet } = $props();
	let changedSince = $state.raw<object | null>(null);
	const done = $derived(form !== null && 'said' in form);
</script>

<Said form={done && changedSince === form ? null : form} />
<form
	method="POST"
	{action}
	oninput={() => (changedSince = form)}
	use:enhance={() =>
		({ update }) =>
			update({ reset: false })}
>
	{@render children()}
</form>
