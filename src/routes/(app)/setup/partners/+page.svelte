<script lang="ts">
	import { enhance } from '$app/forms';
	import { Button } from 'carbon-components-svelte';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import List from '$lib/ui/list/List.svelte';
	import History from '$lib/ui/setup/History.svelte';
	import { typedBefore } from '$lib/ui/setup/typed';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	const was = (name: string) => String(typedBefore(form)[name] ?? '');
</script>

<Said {form} />
<form method="POST" class="panel fields add" use:enhance>
	<Text label="Code" name="code" value={was('code')} mono required ch={12} maxlength="200" />
	<Text label="Name" name="name" value={was('name')} required ch={28} maxlength="1000" />
	<Choose label="Kind" name="kind" options={['supplier', 'customer', 'both']} value={was('kind') || 'supplier'} />
	<Button type="submit" size="small">Add partner</Button>
</form>
<List list={data.list} cells={['code']}>
	{#snippet cell(p)}<a class="mono" href="/setup/partners/{encodeURIComponent(p.code ?? '')}">{p.code}</a>{/snippet}
</List>
<History changes={data.history} what="partners" />
