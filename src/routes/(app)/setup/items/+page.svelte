<script lang="ts">
	import { typedBefore } from '$lib/ui/setup/typed';
	import { enhance } from '$app/forms';
	import { Button } from 'carbon-components-svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	let { data, form } = $props();
	const was = (name: string, other = '') => String(typedBefore(form)[name] ?? other);
	let q = $state('');
	const shown = $derived(data.items.filter((i) => `${i.code} ${i.name}`.toLowerCase().includes(q.toLowerCase())));
	const carries = { none: 'no number', lot: 'lot', serial: 'serial', 'lot and serial': 'lot and serial' };
</script>

<Faults faults={form && 'faults' in form ? (form.faults ?? []) : []} />
{#if form && 'said' in form}<p role="status">{form.said}</p>{/if}
<form method="POST" class="panel fields add" use:enhance>
	<label class="field"
		>Code<input class="plain mono" name="code" defaultValue={was('code')} required size="12" maxlength="200" /></label
	>
	<label class="field"
		>Name<input class="plain" name="name" defaultValue={was('name')} required size="22" maxlength="1000" /></label
	>
	<label class="field"
		>Base unit<input
			class="plain"
			name="unit"
			defaultValue={was('unit', 'each')}
			required
			size="6"
			maxlength="100"
		/></label
	>
	<label class="field"
		>Decimals<input
			class="plain num"
			name="decimals"
			type="number"
			min="0"
			max="6"
			defaultValue={was('decimals', '0')}
		/></label
	>
	<label class="field"
		>Carries<select class="plain" name="carries"
			>{#each Object.entries(carries) as [v, label] (v)}<option value={v} selected={v === was('carries', 'lot')}
					>{label}</option
				>{/each}</select
		></label
	>
	<label class="field"
		>Expiry<select class="plain" name="expiry"
			>{#each ['not asked', 'asked', 'required'] as v (v)}<option selected={v === was('expiry')}>{v}</option
				>{/each}</select
		></label
	>
	<label class="field"
		>Shelf life<input
			class="plain mono"
			name="shelfLife"
			defaultValue={was('shelfLife')}
			placeholder="P12M"
			size="6"
			maxlength="100"
		/></label
	>
	<label class="field"
		>When made<select class="plain" name="runMode"
			><option value="pooled">one pooled run an order</option><option value="unit" selected={was('runMode') === 'unit'}
				>one run for each serial</option
			></select
		></label
	>
	<Button type="submit" size="field">Add item</Button>
</form>
<div class="head">
	<input class="plain" bind:value={q} placeholder="Find an item" aria-label="Find an item" size="24" /><span
		class="soft">{shown.length} items</span
	>
</div>
<table class="rows">
	<thead
		><tr><th>Item</th><th>Name</th><th>Unit</th><th>Carries</th><th>Expiry</th><th>Shelf life</th><th>Made from</th></tr
		></thead
	>
	<tbody>
		{#each shown as i (i.id)}
			<tr>
				<td><a class="mono" href="/setup/items/{encodeURIComponent(i.code)}">{i.code}</a></td>
				<td>{i.name}</td>
				<td>{i.unit}{i.decimals ? `, ${i.decimals} decimals` : ''}</td>
				<td>{carries[i.tracking]}</td>
				<td>{i.expiry}</td>
				<td class="mono">{i.shelfLife ?? '–'}</td>
				<td class="soft">{i.parts.map((p) => `${p.qty} ${p.unit} ${p.item}`).join(', ') || '–'}</td>
			</tr>
		{/each}
	</tbody>
</table>

<style>
	.add {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
	input[type='number'] {
		width: 4rem;
	}
</style>
