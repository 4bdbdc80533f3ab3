<script lang="ts">
	import { enhance } from '$app/forms';
	import { Button } from 'carbon-components-svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	import History from '$lib/ui/setup/History.svelte';
	import { typedBefore } from '$lib/ui/setup/typed';
	let { data, form } = $props();
	const was = (name: string) => String(typedBefore(form)[name] ?? '');
</script>

<p class="soft">
	What material is used for that makes no item: a customer’s project, a department, own use. It is taken out on
	<a href="/stock/issues">Issues to jobs</a>; a trace forward ends at the job.
</p>
<Faults faults={form && 'faults' in form ? (form.faults ?? []) : []} />
{#if form && 'said' in form}<p role="status">{form.said}</p>{/if}
<form method="POST" action="?/add" class="panel fields" use:enhance>
	<label class="field"
		>Code<input class="plain mono" name="code" defaultValue={was('code')} required size="14" maxlength="200" /></label
	>
	<label class="field"
		>What it is<input class="plain" name="name" defaultValue={was('name')} required size="30" maxlength="1000" /></label
	>
	<label class="field"
		>Kind<select class="plain" name="kind"
			>{#each data.kinds as k (k)}<option selected={k === was('kind')}>{k}</option>{/each}</select
		></label
	>
	<label class="field"
		>For the customer<select class="plain" name="partner"
			><option value="">nobody</option>{#each data.customers as p (p.code)}<option
					value={p.code}
					selected={p.code === was('partner')}>{p.name}</option
				>{/each}</select
		></label
	>
	<Button type="submit" size="field">Add job</Button>
</form>
<table class="rows">
	<thead
		><tr><th>Code</th><th>What it is</th><th>Kind</th><th>Customer</th><th class="num">Issues</th><th>State</th></tr
		></thead
	>
	<tbody>
		{#each data.jobs as j (j.code)}<tr
				><td class="mono">{j.code}</td><td>{j.name}</td><td>{j.kind}</td><td>{j.partnerName ?? ''}</td><td class="num"
					>{j.issues.toLocaleString('en')}</td
				><td
					><form class="label" method="POST" action="?/closed" use:enhance>
						<input type="hidden" name="closed" value={j.closedOn ? 'no' : 'yes'} />{j.closedOn
							? `closed ${j.closedOn}`
							: 'open'}
						<button class="link" name="code" value={j.code}
							>{j.closedOn ? 'Open again' : 'Close'}<span class="visually-hidden"> {j.name}</span></button
						>
					</form></td
				></tr
			>{:else}<tr><td colspan="6" class="soft">No job yet. Add the first one above.</td></tr>{/each}
	</tbody>
</table>
<History changes={data.history} what="jobs" />

<style>
	form.panel {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
</style>
