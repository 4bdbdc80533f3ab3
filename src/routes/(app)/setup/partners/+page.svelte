<script lang="ts">
	import History from '$lib/ui/setup/History.svelte';
	import { typedBefore } from '$lib/ui/setup/typed';
	import { enhance } from '$app/forms';
	import { Button } from 'carbon-components-svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	let { data, form } = $props();
	const was = (name: string) => String(typedBefore(form)[name] ?? '');
</script>

<Faults faults={form && 'faults' in form ? (form.faults ?? []) : []} />
{#if form && 'said' in form}<p role="status">{form.said}</p>{/if}
<form method="POST" class="panel fields" use:enhance>
	<label class="field"
		>Code<input class="plain mono" name="code" defaultValue={was('code')} required size="14" maxlength="200" /></label
	>
	<label class="field"
		>Name<input class="plain" name="name" defaultValue={was('name')} required size="30" maxlength="1000" /></label
	>
	<label class="field"
		>Kind<select class="plain" name="kind"
			>{#each ['supplier', 'customer', 'both'] as k (k)}<option selected={k === was('kind')}>{k}</option>{/each}</select
		></label
	>
	<Button type="submit" size="field">Add partner</Button>
</form>
<table class="rows">
	<thead><tr><th>Code</th><th>Name</th><th>Kind</th></tr></thead>
	<tbody
		>{#each data.partners as p (p.code)}<tr><td class="mono">{p.code}</td><td>{p.name}</td><td>{p.kind}</td></tr
			>{:else}<tr><td colspan="3" class="soft">No partner yet. Add the suppliers and customers.</td></tr>{/each}</tbody
	>
</table>
<History changes={data.history} what="partners" />

<style>
	form {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
</style>
