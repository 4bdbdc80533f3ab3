<script lang="ts">
	import History from '$lib/ui/setup/History.svelte';
	import { enhance } from '$app/forms';
	import { Button } from 'carbon-components-svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	let { data, form } = $props();
	const was = (name: string) =>
		String((form && 'typed' in form ? (form.typed as Record<string, unknown>)?.[name] : null) ?? '');
	let asking = $state<string | null>(null);
</script>

<Faults faults={form && 'faults' in form ? (form.faults ?? []) : []} />
{#if form && 'said' in form}<p role="status">{form.said}</p>{/if}
<form method="POST" action="?/add" class="panel fields add" use:enhance>
	<label class="field"
		>Sign-in name<input
			class="plain mono"
			name="login"
			defaultValue={was('login')}
			required
			size="16"
			maxlength="200"
			autocomplete="off"
		/></label
	>
	<label class="field"
		>Name<input
			class="plain"
			name="name"
			defaultValue={was('name')}
			required
			size="22"
			maxlength="1000"
			autocomplete="off"
		/></label
	>
	<label class="field"
		>Role<select class="plain" name="role"
			>{#each data.roles as r (r)}<option selected={r === was('role')}>{r}</option>{/each}</select
		></label
	>
	<label class="field"
		>First password<input
			class="plain"
			name="password"
			type="password"
			required
			minlength="10"
			maxlength="200"
			autocomplete="new-password"
		/></label
	>
	<Button type="submit" size="field">Add person</Button>
</form>
<table class="rows">
	<thead><tr><th>Sign-in name</th><th>Name</th><th>Role</th><th>State</th><th></th></tr></thead>
	<tbody>
		{#each data.people as p (p.login)}
			<tr>
				<td class="mono">{p.login}</td><td>{p.name}</td><td>{p.role}</td><td>{p.active ? 'may sign in' : 'kept out'}</td
				>
				<td class="num acts">
					{#if asking === p.login}
						<form
							method="POST"
							action="?/password"
							use:enhance={() =>
								({ update }) => {
									asking = null;
									return update();
								}}
						>
							<input type="hidden" name="login" value={p.login} /><input
								class="plain"
								name="password"
								type="password"
								minlength="10"
								maxlength="200"
								required
								aria-label="New password of {p.name}"
								autocomplete="new-password"
							/><button class="link">Set it</button>
						</form>
					{:else}<button class="link" onclick={() => (asking = p.login)}>New password…</button>{/if}
					<form method="POST" action="?/active" use:enhance>
						<input type="hidden" name="login" value={p.login} /><input
							type="hidden"
							name="active"
							value={p.active ? 'no' : 'yes'}
						/><button class="link"
							>{p.active ? 'Keep out' : 'Let in'}<span class="visually-hidden"> {p.name}</span></button
						>
					</form>
				</td>
			</tr>
		{/each}
	</tbody>
</table>
<History changes={data.history} what="people" />

<style>
	.add {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.acts form {
		display: inline;
		margin-left: 1rem;
	}
	td .plain {
		height: 26px;
	}
</style>
