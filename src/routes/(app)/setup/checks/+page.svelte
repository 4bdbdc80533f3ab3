<script lang="ts">
	import { enhance } from '$app/forms';
	import Text from '$lib/ui/fields/Text.svelte';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { POLICY_CHECKS } from '$lib/core/checks/catalogue';
	import History from '$lib/ui/setup/History.svelte';
	import KeptForm from '$lib/ui/setup/KeptForm.svelte';
	let { data, form } = $props();
	const words = { stop: 'stop: it cannot be booked', reason: 'reason: one line of why', note: 'note: only shown' };
</script>

<KeptForm {form} action="?/policy">
	<p class="soft">
		What a sheet does when it finds this. What would break the ledger, such as a number that is there already, always
		stops. A number that does not fit its pattern is set with its item, a field outside its limits with the field.
	</p>
	<Table size="short">
		<TableHead
			><TableRow
				><TableHeader>When</TableHeader><TableHeader>The sheet</TableHeader><TableHeader>As delivered</TableHeader
				></TableRow
			></TableHead
		>
		<TableBody>
			{#each POLICY_CHECKS as check (check.code)}<TableRow
					><TableCell>{check.says}</TableCell><TableCell
						><Choose
							name={check.code}
							label={check.says}
							hide
							options={Object.entries(words)}
							value={data.policy[check.code]}
						/></TableCell
					><TableCell class="soft">{check.strength}</TableCell></TableRow
				>{/each}
		</TableBody>
	</Table>
	<p class="save"><Button size="small" type="submit">Save</Button></p>
</KeptForm>
<h2>Counts</h2>
<form class="limit" method="POST" action="?/limit" use:enhance>
	<Text
		label="Counted again by another person above, %"
		name="countLimit"
		num
		ch={8}
		inputmode="decimal"
		value={data.countLimit ?? ''}
		placeholder="never"
	/>
	<Button size="small" type="submit">Set the limit</Button>
	<span class="soft"
		>of what was expected. A difference of something that was not expected at all is always counted again.</span
	>
</form>
<h2>Numbers named in a sheet</h2>
<form class="limit" method="POST" action="?/hold" use:enhance>
	<Text
		label="Held for their order, days"
		name="holdDays"
		num
		ch={8}
		inputmode="numeric"
		value={String(data.holdDays)}
	/>
	<Button size="small" type="submit">Set the days</Button>
	<span class="soft">after their row was last changed. Meanwhile other orders are not offered them.</span>
</form>
<History changes={data.history} />

<style>
	.limit {
		display: flex;
		flex-wrap: wrap;
		align-items: flex-end;
		gap: 0.5rem 1rem;
		margin-bottom: 1rem;
	}
	.limit .soft {
		line-height: 32px;
	}
	.save {
		margin-top: 0.75rem;
	}
</style>
