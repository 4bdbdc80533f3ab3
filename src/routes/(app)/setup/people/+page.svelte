<script lang="ts">
	import { enhance } from '$app/forms';
	import { Button, PasswordInput } from 'carbon-components-svelte';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import List from '$lib/ui/list/List.svelte';
	import History from '$lib/ui/setup/History.svelte';
	import { typedBefore } from '$lib/ui/setup/typed';
	import Question from '$lib/ui/shell/Question.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	const was = (name: string) => String(typedBefore(form)[name] ?? '');
	let asking = $state<{ login: string; name: string } | null>(null);
	let password = $state('');
	function leave() {
		asking = null;
		password = '';
	}
</script>

<Said {form} />
<form method="POST" action="?/add" class="panel fields add" use:enhance>
	<Text label="Sign-in name" name="login" value={was('login')} mono required ch={14} maxlength="200" />
	<Text label="Name" name="name" value={was('name')} required ch={20} maxlength="1000" />
	<Choose label="Role" name="role" options={data.roles} value={was('role') || data.roles[0]} />
	<PasswordInput
		tooltipAlignment="end"
		size="sm"
		labelText="First password"
		name="password"
		required
		minlength={10}
		maxlength={200}
		autocomplete="new-password"
	/>
	<Button type="submit" size="small">Add person</Button>
</form>
<List list={data.list}>
	{#snippet acts(p)}
		<Button
			kind="ghost"
			size="small"
			class="link"
			on:click={() => (asking = { login: p.login ?? '', name: p.name ?? '' })}
			>New password<span class="visually-hidden"> for {p.name}</span></Button
		>
		<form method="POST" action="?/active" use:enhance>
			<Hidden name="login" value={p.login} />
			<Hidden name="active" value={p.state === 'blocked' ? 'yes' : 'no'} />
			<Button type="submit" kind="ghost" size="small" class="link"
				>{p.state === 'blocked' ? 'Unblock' : 'Block'}<span class="visually-hidden"> {p.name}</span></Button
			>
		</form>
	{/snippet}
</List>
<History changes={data.history} what="people" />

{#if asking}
	<Question
		title="New password for {asking.name}"
		verb="Set password"
		action="?/password"
		disabled={password.length < 10}
		onleave={leave}
	>
		<Hidden name="login" value={asking.login} />
		<PasswordInput
			tooltipAlignment="end"
			size="sm"
			labelText="New password, 10 characters or more"
			name="password"
			bind:value={password}
			required
			minlength={10}
			maxlength={200}
			autocomplete="new-password"
		/>
		<p class="soft">
			{asking.name} is signed out everywhere, signs in with it, and is asked for one of their own.
		</p>
	</Question>
{/if}
