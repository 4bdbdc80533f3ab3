<script lang="ts">
	import { POLICY_CHECKS } from '$lib/core/checks/catalogue';
	import History from '$lib/ui/setup/History.svelte';
	import KeptForm from '$lib/ui/setup/KeptForm.svelte';
	let { data, form } = $props();
	const words = { stop: 'stop: it cannot be booked', reason: 'reason: one line of why', note: 'note: only shown' };
</script>

<KeptForm {form}>
	<p class="soft">
		What a sheet does when it finds this. What would break the ledger, such as a number that is there already, always
		stops. A number that does not fit its pattern is set with its item, a fact outside its limits with the fact.
	</p>
	<table class="rows">
		<thead><tr><th>When</th><th>The sheet</th><th>As delivered</th></tr></thead>
		<tbody>
			{#each POLICY_CHECKS as check (check.code)}<tr
					><td>{check.says}</td><td
						><select class="plain" name={check.code} aria-label={check.says}
							>{#each Object.entries(words) as [v, says] (v)}<option value={v} selected={v === data.policy[check.code]}
									>{says}</option
								>{/each}</select
						></td
					><td class="soft">{check.strength}</td></tr
				>{/each}
		</tbody>
	</table>
	<p class="save"><button class="go">Save</button></p>
</KeptForm>
<History changes={data.history} />

<style>
	td .plain {
		height: 26px;
	}
	.save {
		margin-top: 0.75rem;
	}
</style>
