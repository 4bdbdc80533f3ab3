<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	import Brand from '$lib/ui/shell/Brand.svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	import OwnPassword from '$lib/ui/shell/OwnPassword.svelte';
	let { data, form } = $props();
</script>

<svelte:head><title>Your own password · Earmark</title></svelte:head>
<Brand>
	<p class="soft">
		{data.name}, the password that you signed in with was given to you. Set one that only you know, then go on.
	</p>
	<Faults faults={form?.faults ?? []} />
	<form method="POST"><OwnPassword label="The password given to you" verb="Set password and go on" /></form>
	<form method="POST" action="/sign-out">
		<Button kind="ghost" size="small" class="link" type="submit">Sign out</Button>
	</form>
</Brand>

<style>
	form {
		display: flex;
		flex-direction: column;
		gap: 1rem;
		margin-top: 1.25rem;
	}
</style>
