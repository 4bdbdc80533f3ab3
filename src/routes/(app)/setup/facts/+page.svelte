<script lang="ts">
	import History from '$lib/ui/setup/History.svelte';
	import { limitsOf } from '$lib/core/facts/fact';
	import FactForm from '$lib/ui/setup/FactForm.svelte';
	import { KINDS, OUTSIDE } from '$lib/ui/setup/words';
	import Faults from '$lib/ui/shell/Faults.svelte';
	let { data, form } = $props();
	const f = $derived(data.fact);
</script>

<Faults faults={form && 'faults' in form ? (form.faults ?? []) : []} />
{#if form && 'said' in form}<p role="status">{form.said}</p>{/if}
<!-- A fact that was saved leaves an empty form behind; one that was not keeps what was typed. -->
{#key `${f?.code} ${form && 'said' in form ? form.said : ''}`}
	<FactForm fact={f} typed={form && 'typed' in form ? (form.typed as Record<string, string>) : null} />
{/key}
<table class="rows">
	<thead
		><tr
			><th>Fact</th><th>Name</th><th>Is a</th><th>Limits or choices</th><th>Outside its limits</th><th>Kept with</th><th
				>Asked by</th
			></tr
		></thead
	>
	<tbody>
		{#each data.facts as x (x.code)}<tr class:chosen={x.code === f?.code}
				><td><a class="mono" href="/setup/facts?fact={encodeURIComponent(x.code)}">{x.code}</a></td><td>{x.name}</td><td
					>{KINDS[x.kind]}{x.unit ? `, ${x.unit}` : ''}</td
				><td>{limitsOf(x) || x.choices.join(', ')}</td><td>{limitsOf(x) ? OUTSIDE[x.outside] : ''}</td><td
					>{x.per === 'lot' ? 'the lot' : 'each piece'}</td
				><td>{x.asked ? `${x.asked} ${x.asked === 1 ? 'rule' : 'rules'}` : 'no rule yet'}</td></tr
			>{:else}<tr
				><td colspan="7" class="soft"
					>No fact yet. Define what you want to know besides numbers and dates: a certificate, a temperature on arrival,
					a melt number.</td
				></tr
			>{/each}
	</tbody>
</table>
<History changes={data.history} />

<style>
	.chosen td {
		background: var(--amber-soft);
	}
</style>
