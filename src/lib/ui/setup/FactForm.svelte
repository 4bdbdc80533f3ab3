<script lang="ts">
	import Choose from '../fields/Choose.svelte';
	import { Button } from 'carbon-components-svelte';
	import Hidden from '../fields/Hidden.svelte';
	import Quantity from '../fields/Quantity.svelte';
	import Text from '../fields/Text.svelte';
	// Adds an extra field, or changes one.
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
	<Hidden name="was" value={fact?.code ?? ''} />
	{#if fact}<Hidden name="code" value={fact.code} />
		<h2 class="mono">{fact.code}</h2>{:else}<Text
			label="Code"
			mono
			ch={12}
			name="code"
			bind:value={v.code}
			required
			maxlength="100"
			placeholder="TEMP"
		/>{/if}
	<Text
		label="Name"
		ch={24}
		name="name"
		bind:value={v.name}
		required
		maxlength="100"
		placeholder="Temperature on arrival"
	/>
	<Choose label="Is a" name="kind" bind:value={v.kind} options={FACT_KINDS.map((k) => [k, KINDS[k]] as const)} />
	{#if v.kind === 'number'}
		<Text label="Unit" ch={6} name="unit" bind:value={v.unit} maxlength="40" />
		<Text label="Decimals" num name="decimals" inputmode="numeric" bind:value={v.decimals} />
		<Quantity label="At least" ch={6} name="low" bind:value={v.low} decimals={Number(v.decimals) || 0} />
		<Quantity label="At most" ch={6} name="high" bind:value={v.high} decimals={Number(v.decimals) || 0} />
		<Choose label="Outside its limits it" name="outside" bind:value={v.outside} options={Object.entries(OUTSIDE)} />
	{:else if v.kind === 'choice'}
		<Text
			label="Choices, with commas between"
			ch={34}
			name="choices"
			bind:value={v.choices}
			required
			maxlength="2000"
			placeholder="clear, cloudy, coloured"
		/>
	{/if}
	<Choose
		label="Kept with"
		name="per"
		bind:value={v.per}
		options={[
			['lot', 'the lot, where there is one'],
			['piece', 'each piece']
		]}
	/>
	<Button size="small" type="submit">{fact ? 'Save' : 'Add field'}</Button>
	{#if fact}<a href="/setup/facts">New field instead</a>{/if}
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
