<script lang="ts">
	import { Button, PasswordInput, TextInput } from 'carbon-components-svelte';
	import Brand from '$lib/ui/shell/Brand.svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	let { form } = $props();
</script>

<svelte:head><title>Sign in · Earmark</title></svelte:head>
<Brand>
	<p class="soft">Which lot, which piece, where it came from, who has it.</p>
	<Faults faults={form?.faults ?? []} />
	<form method="POST">
		<TextInput
			name="login"
			labelText="Sign-in name"
			value={String(form?.typed?.login ?? '')}
			autocomplete="username"
			autocapitalize="none"
			required
			maxlength={60}
		/>
		<PasswordInput name="password" labelText="Password" autocomplete="current-password" required />
		<Button type="submit">Sign in</Button>
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
