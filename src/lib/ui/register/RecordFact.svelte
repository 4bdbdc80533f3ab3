<script lang="ts">
	import Choose from '../fields/Choose.svelte';
	import Hidden from '../fields/Hidden.svelte';
	import Text from '../fields/Text.svelte';
	// A fact of a lot or serial, recorded or changed after it was booked.
	import { limitsOf, type Fact } from '$lib/core/facts/fact';
	import Question from '../shell/Question.svelte';
	import FactField from '../facts/FactField.svelte';
	interface Props {
		number: string;
		facts: Fact[];
		recorded: { code: string; value: string }[];
		onleave: () => void;
	}
	let { number, facts, recorded, onleave }: Props = $props();
	// svelte-ignore state_referenced_locally
	let code = $state(facts[0].code);
	let value = $state('');
	const key = crypto.randomUUID();
	const fact = $derived(facts.find((f) => f.code === code)!);
	const was = $derived(recorded.find((r) => r.code === code)?.value);
</script>

<Question title="Add a detail to {number}" verb="Save" action="?/fact" {onleave}>
	<Hidden name="key" value={key} />
	<Hidden name="value" {value} />
	<Choose
		label="Detail"
		name="code"
		options={facts.map((f) => [f.code, f.name] as const)}
		bind:value={code}
		onpick={() => (value = '')}
	/>
	<div class="field">
		<span aria-hidden="true">{fact.name}{fact.unit ? `, ${fact.unit}` : ''}</span>
		<FactField {fact} {value} onchange={(v) => (value = v)} />
	</div>
	{#if limitsOf(fact)}<span class="soft">{limitsOf(fact)}</span>{/if}
	<Text
		label="Why{was ? `, since ${was} is recorded` : ', where it is outside its limits'}"
		name="reason"
		maxlength="1000"
	/>
</Question>
