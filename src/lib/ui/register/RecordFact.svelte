<script lang="ts">
	import { Button } from 'carbon-components-svelte';
	import Choose from '../fields/Choose.svelte';
	import Hidden from '../fields/Hidden.svelte';
	import Text from '../fields/Text.svelte';
	// A fact of a lot or serial, recorded or changed after it was booked.
	import { enhance } from '$app/forms';
	import { limitsOf, type Fact } from '$lib/core/facts/fact';
	import { opened } from '../shell/focus';
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
	{@attach opened}
	use:enhance={({ formData }) => {
		formData.set('value', value);
		return async ({ update, result }) => {
			await update({ reset: false });
			if (result.type === 'success') onleave();
		};
	}}
>
	<Hidden name="key" value={key} />
	<Choose
		label="Detail"
		name="code"
		options={facts.map((f) => [f.code, f.name] as const)}
		bind:value={code}
		onpick={() => (value = '')}
		data-first
	/>
	<div class="field">
		<span aria-hidden="true">{fact.name}{fact.unit ? `, ${fact.unit}` : ''}</span>
		<FactField {fact} {value} onchange={(v) => (value = v)} />
	</div>
	<Text
		label="Why{was ? `, since ${was} is recorded` : ', where it is outside its limits'}"
		name="reason"
		maxlength="1000"
	/>
	<Button size="small" type="submit">Save</Button>
	<Button kind="ghost" size="small" class="link" on:click={onleave}>Cancel</Button>
	{#if limitsOf(fact)}<span class="soft">{limitsOf(fact)}</span>{/if}
</form>

<style>
	form {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
		border-left: 3px solid var(--amber);
	}
</style>
