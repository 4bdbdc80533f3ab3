<script lang="ts">
	import { enhance } from '$app/forms';
	import { Button } from 'carbon-components-svelte';
	import { sayDuration } from '$lib/core/dates/dates';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Duration from '$lib/ui/fields/Duration.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import List from '$lib/ui/list/List.svelte';
	import { typedBefore } from '$lib/ui/setup/typed';
	import { RUN_MODES } from '$lib/ui/setup/words';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	const was = (name: string, other = '') => String(typedBefore(form)[name] ?? other);
	const carries = [
		['none', 'no number'],
		['lot', 'lot'],
		['serial', 'serial'],
		['lot and serial', 'lot and serial']
	] as const;
</script>

<Said {form} />
{#key form}
	<form method="POST" class="panel fields add" use:enhance>
		<Text label="Code" name="code" value={was('code')} mono required ch={10} maxlength="200" />
		<Text label="Name" name="name" value={was('name')} required ch={20} maxlength="1000" />
		<Text label="Base unit" name="unit" value={was('unit', 'each')} required ch={5} maxlength="100" />
		<Text label="Decimals" name="decimals" value={was('decimals', '0')} num ch={3} inputmode="numeric" maxlength="2" />
		<Choose label="Carries" name="carries" options={carries} value={was('carries', 'lot')} />
		<Choose
			label="Expiry"
			name="expiry"
			options={['not asked', 'asked', 'required']}
			value={was('expiry', 'not asked')}
		/>
		<Duration label="Shelf life" name="shelfLife" value={was('shelfLife')} />
		<Choose label="When made" name="runMode" options={RUN_MODES} value={was('runMode', 'pooled')} />
		<Button type="submit" size="small">Add item</Button>
	</form>
{/key}
<List list={data.list} cells={['code', 'shelfLife']}>
	{#snippet cell(i, c)}
		{#if c.key === 'code'}<a href="/setup/items/{encodeURIComponent(i.code ?? '')}">{i.code}</a>
		{:else}{i.shelfLife ? sayDuration(i.shelfLife) : '–'}{/if}
	{/snippet}
</List>
