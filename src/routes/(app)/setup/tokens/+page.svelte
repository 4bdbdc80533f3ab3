<script lang="ts">
	import { enhance } from '$app/forms';
	import { Button, CopyButton } from 'carbon-components-svelte';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import DayField from '$lib/ui/fields/DayField.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import List from '$lib/ui/list/List.svelte';
	import History from '$lib/ui/setup/History.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
</script>

<p class="soft">Lets another program do what a role may do here. <a href="/api">What programs can call</a></p>
<Said {form} />
{#if form && 'secret' in form}
	<div class="panel add secret" role="status">
		<p>The access of {form.name}. Copy it now; it is not shown again.</p>
		<code>{form.secret}</code>
		<CopyButton text={String(form.secret)} iconDescription="Copy the access" />
	</div>
{/if}
<form method="POST" action="?/make" class="panel fields add" use:enhance>
	<Text label="Program" name="name" required ch={22} maxlength="200" />
	<Choose label="Role" name="role" options={data.roles} value={data.roles[0]} />
	<DayField label="Until, if it ends by itself" name="ends" />
	<Button type="submit" size="small">Add access</Button>
</form>
<List list={data.list}>
	{#snippet acts(t)}
		{#if !t.revoked}
			<form method="POST" action="?/revoke" use:enhance>
				<Hidden name="id" value={t.id} />
				<Button type="submit" kind="ghost" size="small" class="link"
					>Withdraw<span class="visually-hidden"> the access of {t.name}</span></Button
				>
			</form>
		{/if}
	{/snippet}
</List>
<History changes={data.history} what="access" />

<style>
	.secret {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.5rem 1rem;
		border-left: 3px solid var(--amber);
	}
	.secret p {
		margin: 0;
		flex-basis: 100%;
	}
	code {
		overflow-wrap: anywhere;
	}
</style>
