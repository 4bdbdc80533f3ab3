<script lang="ts">
	// Closes something that is set up, so that nothing new takes it, or opens it again.
	import { enhance } from '$app/forms';
	import { Button } from 'carbon-components-svelte';
	import Hidden from '../fields/Hidden.svelte';
	interface Props {
		/** what it is known by, and the field that says so */
		by?: 'code' | 'name';
		value: string | null;
		closed: boolean;
		/** as it is called */
		name: string | null;
	}
	let { by = 'code', value, closed, name }: Props = $props();
</script>

<form method="POST" action="?/closed" use:enhance>
	<Hidden name={by} value={value ?? ''} />
	<Hidden name="closed" value={closed ? 'no' : 'yes'} />
	<Button type="submit" kind="ghost" size="small" class="link"
		>{closed ? 'Open again' : 'Close'}<span class="visually-hidden"> {name}</span></Button
	>
</form>
