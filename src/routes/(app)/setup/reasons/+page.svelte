<script lang="ts">
	import { enhance } from '$app/forms';
	import { Button } from 'carbon-components-svelte';
	import { REASON_ACTS } from '$lib/core/document/kinds';
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
	Why stock is put in or taken out without coming from anybody or going to anybody. Whoever adjusts stock chooses one of
	these, and the auditor's list can be narrowed to it. A reason that is not wanted any more is closed; what was booked
	with it keeps it.
</p>
<Said {form} />
<form method="POST" action="?/add" class="panel fields add" use:enhance>
	<Text label="Reason" name="name" value={was('name')} required ch={30} maxlength="100" />
	<Choose label="It is a reason to" name="act" options={REASON_ACTS} value={was('act') || 'take out'} />
	<Button type="submit" size="small">Add reason</Button>
</form>
<List list={data.list}>
	{#snippet acts(r)}
		<CloseAct by="name" value={r.name} closed={!!r.closed} name={r.name} />
	{/snippet}
</List>
<History changes={data.history} what="reasons" />
