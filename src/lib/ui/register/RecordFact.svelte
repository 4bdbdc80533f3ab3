<script lang="ts">
	// A fact of a lot or serial, recorded or changed after it was booked.
	import { enhance } from '$app/forms';
	import { limitsOf, type Fact } from '$lib/core/facts/fact';
	import FactField from '../facts/FactField.svelte';
	interface Props {
		facts: Fact[];
		recorded: { code: string; value: string }[];
		onleave: () => void;
	}
	let { facts, recorded, onleave }: Props = $props();
	// svelte-ignore state_referenced_locally
	let code = $state(facts[0].code);
	let value = $state('');
	const key = crypto.randomUUID();
	const fact = $derived(facts.find((f) => f.code === code)!);
	const was = $derived(recorded.find((r) => r.code === code)?.value);
</script>

<form
	class="panel fields"
	method="POST"
	action="?/fact"
	use:enhance={({ formData }) => {
		formData.set('value', value);
		return async ({ update, result }) => {
			await update({ reset: false });
			if (result.type === 'success') onleave();
		};
	}}
>
	<input type="hidden" name="key" value={key} />
	<label class="field"
		>Fact<select class="plain" name="code" bind:value={code} onchange={() => (value = '')} data-first
			>{#each facts as f (f.code)}<option value={f.code}>{f.name}</option>{/each}</select
		></label
	>
	<div class="field">
		<span aria-hidden="true">{fact.name}{fact.unit ? `, ${fact.unit}` : ''}</span>
		<FactField {fact} {value} onchange={(v) => (value = v)} />
	</div>
	<label class="field why"
		>Why{was ? `, since ${was} is recorded` : ', where it is outside its limits'}<input
			class="plain"
			name="reason"
			maxlength="1000"
		/></label
	>
	<button class="go">Record it</button>
	<button type="button" class="link" onclick={onleave}>Leave it</button>
	{#if limitsOf(fact)}<span class="soft">{limitsOf(fact)}</span>{/if}
</form>

<style>
	form {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
		border-left: 3px solid var(--amber);
	}
	.why {
		flex: 1;
	}
</style>
