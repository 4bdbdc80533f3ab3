<script lang="ts">
	import History from '$lib/ui/setup/History.svelte';
	import { typedBefore } from '$lib/ui/setup/typed';
	import type { Rule } from '$lib/core/marking/rule';
	import KeptForm from '$lib/ui/setup/KeptForm.svelte';
	import Means from '$lib/ui/setup/Means.svelte';
	import RuleTable from '$lib/ui/setup/RuleTable.svelte';
	let { data, form } = $props();
	const was = (name: string, other = '') => String(typedBefore(form)[name] ?? other);
	// svelte-ignore state_referenced_locally
	let rules = $state<Rule[]>(data.rules);
	const means = $derived(form && 'means' in form ? (form.means as string[]) : null);
	// What was shown holds only for the rule that it was shown for.
	const confirmed = $derived(
		form && 'rules' in form && JSON.stringify(form.rules) === JSON.stringify(rules) ? JSON.stringify(rules) : ''
	);
</script>

<KeptForm {form}>
	<input type="hidden" name="rules" value={JSON.stringify(rules)} />
	<input type="hidden" name="confirmed" value={confirmed} />
	<div class="panel fields">
		{#if data.kind}<h2 class="mono">{data.kind.code}</h2>{:else}<label class="field"
				>Code<input
					class="plain mono"
					name="code"
					defaultValue={was('code')}
					required
					size="14"
					maxlength="100"
				/></label
			>{/if}
		<label class="field"
			>Name<input
				class="plain"
				name="name"
				defaultValue={was('name', data.kind?.name)}
				required
				size="30"
				maxlength="200"
			/></label
		>
		<button class="go">{data.kind ? 'Save' : 'Make the kind'}</button>
	</div>
	{#if means && confirmed}<Means {means} />{/if}
	<div class="two">
		<section class="panel">
			<h2>Marking rule of the kind</h2>
			<p class="soft">Of each item only the numbers count that it carries.</p>
			<RuleTable bind:rules carries="lot and serial" facts={data.facts} />
		</section>
		<section class="panel">
			<h2>Items of this kind</h2>
			<table class="rows">
				<tbody>
					{#each data.kind?.members ?? [] as m (m.code)}<tr
							><td><a class="mono" href="/setup/items/{encodeURIComponent(m.code)}">{m.code}</a></td><td>{m.name}</td
							><td class="soft">{m.ownRule ? 'has a rule of its own' : ''}</td></tr
						>{:else}<tr><td class="soft">None yet. An item is put into a kind on its own page.</td></tr>{/each}
				</tbody>
			</table>
		</section>
	</div>
</KeptForm>
<History changes={data.history} />

<style>
	.fields {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
		align-items: center;
	}
	.fields h2 {
		margin: 0;
	}
	.two {
		display: grid;
		grid-template-columns: 7fr 3fr;
		gap: 0.75rem;
		align-items: start;
	}
	section {
		padding: 0.6rem 0.75rem;
		min-width: 0;
	}
	@media (max-width: 900px) {
		.two {
			grid-template-columns: 1fr;
		}
	}
</style>
