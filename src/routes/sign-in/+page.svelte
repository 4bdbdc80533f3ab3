<script lang="ts">
	import { Button, PasswordInput, TextInput } from 'carbon-components-svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	let { form } = $props();
</script>

<svelte:head><title>Sign in · Earmark</title></svelte:head>
<main>
	<h1>
		<svg viewBox="0 0 24 16" width="30" height="20" aria-hidden="true"
			><path d="M1 1h15a7 7 0 0 1 0 14H1z" fill="#f0a30a" /><circle cx="6" cy="8" r="2.4" fill="#14202a" /></svg
		>Earmark
	</h1>
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
</main>

<style>
	main {
		width: min(22rem, 90vw);
		margin: 14vh auto 0;
	}
	h1 {
		display: flex;
		align-items: center;
		gap: 0.6rem;
		font-size: 1.75rem;
	}
	form {
		display: flex;
		flex-direction: column;
		gap: 1rem;
		margin-top: 1.25rem;
	}
</style>
