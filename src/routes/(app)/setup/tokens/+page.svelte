<script lang="ts">
	import History from '$lib/ui/setup/History.svelte';
	import { enhance } from '$app/forms';
	import { Button } from 'carbon-components-svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	let { data, form } = $props();
</script>

<p class="soft">
	A token lets a program do over HTTP what a role may do here: <span class="mono">Authorization: Bearer …</span>
</p>
<Faults faults={form && 'faults' in form ? (form.faults ?? []) : []} />
{#if form && 'said' in form}<p role="status">{form.said}</p>{/if}
{#if form && 'secret' in form}
	<div class="panel secret" role="status">
		<p>The token of {form.name}. Copy it now; it is not shown again.</p>
		<code>{form.secret}</code>
	</div>
{/if}
<form method="POST" action="?/make" class="panel fields add" use:enhance>
	<label class="field"
		>Program<input class="plain" name="name" required size="24" maxlength="200" autocomplete="off" /></label
	>
	<label class="field"
		>Role<select class="plain" name="role"
			>{#each data.roles as r (r)}<option>{r}</option>{/each}</select
		></label
	>
	<Button type="submit" size="field">Make a token</Button>
</form>
<table class="rows">
	<thead><tr><th>Program</th><th>Role</th><th>Made</th><th>By</th><th>Last used</th><th></th></tr></thead>
	<tbody>
		{#each data.tokens as t (t.id)}
			<tr class:revoked={t.revokedAt}>
				<td>{t.name}</td><td>{t.role}</td><td>{t.createdAt}</td><td>{t.createdBy}</td><td>{t.lastUsedAt ?? 'never'}</td>
				<td class="num"
					>{#if t.revokedAt}revoked {t.revokedAt}{:else}<form method="POST" action="?/revoke" use:enhance>
							<input type="hidden" name="id" value={t.id} /><button class="link"
								>Revoke<span class="visually-hidden"> {t.name}</span></button
							>
						</form>{/if}</td
				>
			</tr>
		{:else}<tr><td colspan="6" class="soft">No token yet.</td></tr>{/each}
	</tbody>
</table>
<History changes={data.history} what="tokens" />

<style>
	.add,
	.secret {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.secret {
		border-left: 3px solid var(--amber);
	}
	.secret p {
		margin: 0 0 0.3rem;
	}
	code {
		overflow-wrap: anywhere;
	}
	.revoked td {
		color: var(--ink-soft);
	}
</style>
