<script lang="ts">
	import { Button, Table, TableBody, TableCell, TableRow } from 'carbon-components-svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
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
	<Hidden name="rules" value={JSON.stringify(rules)} />
	<Hidden name="confirmed" value={confirmed} />
	<div class="panel fields">
		{#if data.kind}<h2 class="mono">{data.kind.code}</h2>{:else}<Text
				label="Code"
				mono
				ch={14}
				name="code"
				value={was('code')}
				required
				maxlength="100"
			/>{/if}
		<Text label="Name" ch={30} name="name" value={was('name', data.kind?.name)} required maxlength="200" />
		<Button size="small" type="submit">{data.kind ? 'Save' : 'Add kind'}</Button>
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
			<Table size="short">
				<TableBody>
					{#each data.kind?.members ?? [] as m (m.code)}<TableRow
							><TableCell><a class="mono" href="/setup/items/{encodeURIComponent(m.code)}">{m.code}</a></TableCell
							><TableCell>{m.name}</TableCell><TableCell class="soft"
								>{m.ownRule ? 'has a rule of its own' : ''}</TableCell
							></TableRow
						>{:else}<TableRow
							><TableCell class="soft">None yet. An item is put into a kind on its own page.</TableCell></TableRow
						>{/each}
				</TableBody>
			</Table>
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
