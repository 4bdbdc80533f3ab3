<script lang="ts">
	import { enhance } from '$app/forms';
	import { Button } from 'carbon-components-svelte';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import List from '$lib/ui/list/List.svelte';
	import CloseAct from '$lib/ui/setup/CloseAct.svelte';
	import History from '$lib/ui/setup/History.svelte';
	import { typedBefore } from '$lib/ui/setup/typed';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	const was = (name: string) => String(typedBefore(form)[name] ?? '');
</script>

<p class="soft">
	What material is used for that makes no item: a customer’s project, a department, own use. It is taken out on
	<a href="/stock/issues">Issues to jobs</a>; a trace forward ends at the job.
</p>
<Said {form} />
<form method="POST" action="?/add" class="panel fields add" use:enhance>
	<Text label="Code" name="code" value={was('code')} mono required ch={12} maxlength="200" />
	<Text label="What it is" name="name" value={was('name')} required ch={28} maxlength="1000" />
	<Choose label="Kind" name="kind" options={data.kinds} value={was('kind') || data.kinds[0]} />
	<Choose
		label="For the customer"
		name="partner"
		options={[['', 'nobody'], ...data.customers.map((p) => [p.code, p.name] as const)]}
		value={was('partner')}
	/>
	<Button type="submit" size="small">Add job</Button>
</form>
<List list={data.list}>
	{#snippet acts(j)}
		<CloseAct value={j.code} closed={!!j.closed} name={j.name} />
	{/snippet}
</List>
<History changes={data.history} what="jobs" />
