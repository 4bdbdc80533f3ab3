<script lang="ts">
	import Choose from '$lib/ui/fields/Choose.svelte';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { POLICY_CHECKS } from '$lib/core/checks/catalogue';
	import History from '$lib/ui/setup/History.svelte';
	import KeptForm from '$lib/ui/setup/KeptForm.svelte';
	let { data, form } = $props();
	const words = { stop: 'stop: it cannot be booked', reason: 'reason: one line of why', note: 'note: only shown' };
</script>

<KeptForm {form}>
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
<History changes={data.history} />

<style>
	.save {
		margin-top: 0.75rem;
	}
</style>
