<script lang="ts">
	import { enhance } from '$app/forms';
	import { FACT_KINDS, limitsOf, type FactKind } from '$lib/core/facts/fact';
	import Faults from '$lib/ui/shell/Faults.svelte';
	let { data, form } = $props();
	const f = $derived(data.fact);
	const was = (name: string, other: unknown = '') => String((form && 'typed' in form ? form.typed?.[name] : null) ?? other ?? ''); // prettier-ignore
	let picked = $state<FactKind | null>(null);
	const kind = $derived(picked ?? (was('kind', f?.kind ?? 'text') as FactKind));
	const words = { stop: 'cannot be booked', reason: 'wants a reason', note: 'is only noted' };
	const kinds = { text: 'text', number: 'number', date: 'date', choice: 'choice', file: 'file (PDF or picture)' };
</script>

<Faults faults={form && 'faults' in form ? (form.faults ?? []) : []} />
{#if form && 'said' in form}<p role="status">{form.said}</p>{/if}
{#key f?.code}
	<form method="POST" class="panel fields" use:enhance>
		<input type="hidden" name="was" value={f?.code ?? ''} />
		{#if f}<input type="hidden" name="code" value={f.code} />
			<h2 class="mono">{f.code}</h2>{:else}<label class="field"
				>Code<input
					class="plain mono"
					name="code"
					value={was('code')}
					required
					size="12"
					maxlength="100"
					placeholder="TEMP"
				/></label
			>{/if}
		<label class="field"
			>Name<input
				class="plain"
				name="name"
				value={was('name', f?.name)}
				required
				size="24"
				maxlength="100"
				placeholder="Temperature on arrival"
			/></label
		>
		<label class="field"
			>Is a<select class="plain" name="kind" value={kind} onchange={(e) => (picked = e.currentTarget.value as FactKind)}
				>{#each FACT_KINDS as k (k)}<option value={k}>{kinds[k]}</option>{/each}</select
			></label
		>
		{#if kind === 'number'}
			<label class="field"
				>Unit<input class="plain" name="unit" value={was('unit', f?.unit)} size="6" maxlength="40" /></label
			>
			<!-- prettier-ignore -->
			<label class="field"
				>Decimals<input
					class="plain num"
					name="decimals"
					type="number"
					min="0"
					max="6"
					value={was('decimals', f?.decimals ?? 1)}
				/></label
			>
			<label class="field"
				>At least<input class="plain num" name="low" value={was('low', f?.low)} size="6" maxlength="40" /></label
			>
			<label class="field"
				>At most<input class="plain num" name="high" value={was('high', f?.high)} size="6" maxlength="40" /></label
			>
			<label class="field"
				>Outside its limits it<select class="plain" name="outside"
					>{#each Object.entries(words) as [v, says] (v)}<option
							value={v}
							selected={v === was('outside', f?.outside ?? 'reason')}>{says}</option
						>{/each}</select
				></label
			>
		{:else if kind === 'choice'}
			<label class="field"
				>Choices, with commas between<input
					class="plain"
					name="choices"
					value={was('choices', f?.choices.join(', '))}
					required
					size="34"
					maxlength="2000"
					placeholder="clear, cloudy, coloured"
				/></label
			>
		{/if}
		<label class="field"
			>Kept with<select class="plain" name="per"
				><option value="lot" selected={was('per', f?.per ?? 'lot') === 'lot'}>the lot, where there is one</option
				><option value="piece" selected={was('per', f?.per) === 'piece'}>each piece</option></select
			></label
		>
		<button class="go">{f ? 'Save' : 'Define it'}</button>
		{#if f}<a href="/setup/facts">New fact instead</a>{/if}
	</form>
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
					>{kinds[x.kind]}{x.unit ? `, ${x.unit}` : ''}</td
				><td>{limitsOf(x) || x.choices.join(', ')}</td><td>{limitsOf(x) ? words[x.outside] : ''}</td><td
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

<style>
	form {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
		align-items: flex-end;
	}
	form h2 {
		margin: 0 0 0.4rem;
	}
	form a {
		align-self: center;
	}
	.chosen td {
		background: var(--amber-soft);
	}
</style>
