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
<form
	method="POST"
	action="?/zone"
	class="panel fields"
	use:enhance={() =>
		({ update }) =>
			update({ reset: false })}
>
	<label class="field"
		>The firm’s time zone<input
			class="plain"
			name="zone"
			defaultValue={data.firm}
			required
			size="22"
			maxlength="60"
		/></label
	>
	<Button type="submit" size="field" kind="tertiary">Save</Button>
	<span class="soft what"
		>“Today” and every time shown is that of the site, or of the firm where a site has none of its own.</span
	>
</form>
<form method="POST" action="?/add" class="panel fields" use:enhance>
	<label class="field"
		>Site or bin<input
			class="plain mono"
			name="code"
			defaultValue={was('code')}
			placeholder="QS or QS/A1"
			required
			size="18"
			maxlength="200"
		/></label
	>
	<label class="field"
		>Name<input class="plain" name="name" defaultValue={was('name')} required size="26" maxlength="1000" /></label
	>
	<label class="field"
		>Time zone of a site<input
			class="plain"
			name="zone"
			defaultValue={was('zone')}
			placeholder={data.firm}
			size="18"
			maxlength="60"
		/></label
	>
	<label class="dock"><input type="checkbox" name="dock" value="yes" /> goods arrive here, to be put away</label>
	<Button type="submit" size="field">Add place</Button>
</form>
<table class="rows">
	<thead
		><tr
			><th>Place</th><th>Name</th><th>Site</th><th>Time zone</th><th>Goods arrive</th><th class="num">Numbers there</th
			><th></th></tr
		></thead
	>
	<tbody>
		{#each data.places as p (p.code)}<tr
				><td><a class="mono" href="/register?place={encodeURIComponent(p.code)}">{p.code}</a></td><td>{p.name}</td><td
					class="mono">{p.site ?? 'site'}</td
				><td class="soft">{p.zone ?? ''}</td><td
					>{#if p.site}<form class="label" method="POST" action="?/dock" use:enhance>
							<input type="hidden" name="dock" value={p.dock ? 'no' : 'yes'} />{p.dock ? 'yes' : ''}
							<button class="link" name="code" value={p.code}
								>{p.dock ? 'No longer' : 'Say so'}<span class="visually-hidden"> for {p.code}</span></button
							>
						</form>{/if}</td
				><td class="num">{p.numbers.toLocaleString('en')}</td><td class="num"
					><form class="label" method="POST" action="/devices?/print">
						<button class="link" name="place" value={p.code}
							>Print label<span class="visually-hidden"> of {p.code}</span></button
						>
					</form></td
				></tr
			>{:else}<tr><td colspan="7" class="soft">No place yet. Add the site first, then its bins.</td></tr>{/each}
	</tbody>
</table>
<History changes={data.history} what="places" />

<style>
	form.panel {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	.dock,
	.what {
		align-self: center;
	}
</style>
