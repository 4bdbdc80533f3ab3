<script lang="ts">
	// A form whose fields stay as they are typed, whatever comes of it; what came of it stands above.
	import type { Snippet } from 'svelte';
	import { enhance } from '$app/forms';
	import Said from '../shell/Said.svelte';
	let { form, children }: { form: object | null; children: Snippet } = $props();
</script>

<Said {form} />
<form
	method="POST"
	use:enhance={() =>
		({ update }) =>
			update({ reset: false })}
>
	{@render children()}
</form>
