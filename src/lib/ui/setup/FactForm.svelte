<script lang="ts">
	// Defines a fact, or changes one.
	import { enhance } from '$app/forms';
	import { FACT_KINDS, type Fact } from '$lib/core/facts/fact';
	import { KINDS, OUTSIDE } from './words';
	let { fact, typed }: { fact: Fact | null; typed: Record<string, string> | null } = $props();
	// svelte-ignore state_referenced_locally
	const was = (name: string, now: unknown) => typed?.[name] ?? String(now ?? '');
	// svelte-ignore state_referenced_locally
	let v = $state({
		code: was('code', fact?.code),
		name: was('name', fact?.name),
		kind: was('kind', fact?.kind ?? 'text'),
		unit: was('unit', fact?.unit),
		decimals: was('decimals', fact?.decimals ?? 1),
		low: was('low', fact?.low),
		high: was('high', fact?.high),
		choices: was('choices', fact?.choices.join(', ')),
		outside: was('outside', fact?.outside ?? 'reason'),
		per: was('per', fact?.per ?? 'lot')
	});
</script>

<form
	method="POST"
	class="panel fields"
	use:enhance={() =>
		({ update }) =>
			update({ reset: false })}
>
	<input type="hidden" name="was" value={fact?.code ?? ''} />
	{#if fact}<input type="hidden" name="code" value={fact.code} />
		<h2 class="mono">{fact.code}</h2>{:else}<label class="field"
			>Code<input
				class="plain mono"
				name="code"
				bind:value={v.code}
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
			bind:value={v.name}
			required
			size="24"
			maxlength="100"
			placeholder="Temperature on arrival"
		/></label
	>
	<label class="field"
		>Is a<select class="plain" name="kind" bind:value={v.kind}
			>{#each FACT_KINDS as k (k)}<option value={k}>{KINDS[k]}</option>{/each}</select
		></label
	>
	{#if v.kind === 'number'}
		<label class="field">Unit<input class="plain" name="unit" bind:value={v.unit} size="6" maxlength="40" /></label>
		<label class="field"
			>Decimals<input class="plain num" name="decimals" type="number" min="0" max="6" bind:value={v.decimals} /></label
		>
		<label class="field"
			>At least<input class="plain num" name="low" bind:value={v.low} size="6" maxlength="40" /></label
		>
		<label class="field"
			>At most<input class="plain num" name="high" bind:value={v.high} size="6" maxlength="40" /></label
		>
		<label class="field"
			>Outside its limits it<select class="plain" name="outside" bind:value={v.outside}
				>{#each Object.entries(OUTSIDE) as [value, says] (value)}<option {value}>{says}</option>{/each}</select
			></label
		>
	{:else if v.kind === 'choice'}
		<label class="field"
			>Choices, with commas between<input
				class="plain"
				name="choices"
				bind:value={v.choices}
				required
				size="34"
				maxlength="2000"
				placeholder="clear, cloudy, coloured"
			/></label
		>
	{/if}
	<label class="field"
		>Kept with<select class="plain" name="per" bind:value={v.per}
			><option value="lot">the lot, where there is one</option><option value="piece">each piece</option></select
		></label
	>
	<button class="go">{fact ? 'Save' : 'Define it'}</button>
	{#if fact}<a href="/setup/facts">New fact instead</a>{/if}
</form>

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
</style>
