<script lang="ts">
	import { enhance } from '$app/forms';
	import { Button } from 'carbon-components-svelte';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
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
	Where parts are put into units, by scanning alone: <a href="/station">open a station</a> on the tablet or phone that stands
	there. What carries no number is used from the place of the station.
</p>
<Said {form} />
<form method="POST" action="?/add" class="panel fields add" use:enhance>
	<Text label="Code" name="code" value={was('code')} mono required ch={10} maxlength="20" />
	<Text label="Name" name="name" value={was('name')} required ch={24} maxlength="100" />
	<Choose label="Stands at" name="place" options={[['', 'choose a place'], ...data.places]} value={was('place')} />
	<Choose
		label="What is put together there"
		name="review"
		options={[
			['no', 'is booked at once'],
			['yes', 'waits for a review']
		]}
		value={was('review') || 'no'}
	/>
	<Button type="submit" size="small">Add station</Button>
</form>
<List list={data.list}>
	{#snippet acts(t)}
		<form method="POST" action="?/review" use:enhance>
			{#each ['code', 'name', 'place'] as field (field)}<Hidden name={field} value={String(t[field])} />{/each}
			<Hidden name="review" value={t.review === 'yes' ? 'no' : 'yes'} />
			<Button type="submit" kind="ghost" size="small" class="link"
				>{t.review === 'yes' ? 'Book at once' : 'Ask a review'}<span class="visually-hidden"> {t.name}</span></Button
			>
		</form>
		<CloseAct value={t.code} closed={!!t.closed} name={t.name} />
	{/snippet}
</List>
<History changes={data.history} what="stations" />
