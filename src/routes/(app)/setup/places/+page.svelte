<script lang="ts">
	import { enhance } from '$app/forms';
	import { Button, Checkbox, Toggle } from 'carbon-components-svelte';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import List from '$lib/ui/list/List.svelte';
	import History from '$lib/ui/setup/History.svelte';
	import { PREFERENCE_CHOICES } from '$lib/ui/setup/preferences';
	import { typedBefore } from '$lib/ui/setup/typed';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	const was = (name: string) => String(typedBefore(form)[name] ?? '');
	const forms: Record<string, HTMLFormElement> = {};
</script>

<Said {form} />
<form
	method="POST"
	action="?/firm"
	class="panel fields add"
	use:enhance={() =>
		({ update }) =>
			update({ reset: false })}
>
	<Text label="The firm’s time zone" name="zone" value={data.firm} required ch={20} maxlength="60" />
	<Choose
		label="Numbers are written"
		name="sign"
		options={[
			['.', '1,250.5'],
			[',', '1.250,5']
		]}
		value={data.sign}
	/>
	<Choose label="Taken first" name="preference" options={PREFERENCE_CHOICES} value={data.preference} />
	<Choose
		label="What came back from a customer"
		name="newOnly"
		options={[
			['no', 'goes last'],
			['yes', 'goes to no customer']
		]}
		value={data.newOnly ? 'yes' : 'no'}
	/>
	<Button type="submit" size="small" kind="tertiary">Save</Button>
	<span class="soft what"
		>“Today” and every time shown is that of the site, or of the firm where a site has none of its own. Programs send
		and get numbers with a point. Between sites of one neighbourhood a transfer arrives as it leaves.</span
	>
</form>
{#each data.sites as s (s.code)}
	<form
		method="POST"
		action="?/site"
		class="panel fields add"
		use:enhance={() =>
			({ update }) =>
				update({ reset: false })}
	>
		<Hidden name="code" value={s.code} />
		<span class="mono what">{s.code}</span>
		<Choose
			label="Taken first at {s.code}"
			name="preference"
			options={[['', 'as the firm does'], ...PREFERENCE_CHOICES]}
			value={s.preference ?? ''}
		/>
		<div class="what">
			<Checkbox
				labelText="Goods go to bins first: what lies on a dock is not offered"
				name="binsFirst"
				value="yes"
				checked={s.binsFirst}
			/>
		</div>
		<Text
			label="Neighbourhood of {s.code}"
			name="area"
			value={s.area ?? ''}
			ch={16}
			maxlength="60"
			placeholder="none"
		/>
		<Button type="submit" size="small" kind="tertiary">Save<span class="visually-hidden"> {s.code}</span></Button>
	</form>
{/each}
<form method="POST" action="?/add" class="panel fields add" use:enhance>
	<Text
		label="Site or bin"
		name="code"
		value={was('code')}
		mono
		placeholder="QS or QS/A1"
		required
		ch={16}
		maxlength="200"
	/>
	<Text label="Name" name="name" value={was('name')} required ch={24} maxlength="1000" />
	<Text label="Time zone of a site" name="zone" value={was('zone')} placeholder={data.firm} ch={16} maxlength="60" />
	<div class="what"><Checkbox labelText="Goods arrive here, to be put away" name="dock" value="yes" /></div>
	<Button type="submit" size="small">Add place</Button>
</form>
<List list={data.list} cells={['code', 'dock', 'staging']}>
	{#snippet cell(p, c)}
		{#if c.key === 'code'}<a href="/register?place={encodeURIComponent(p.code ?? '')}">{p.code}</a>
		{:else if p.site}
			{@const is = (c.key === 'dock' ? p.dock : p.staging) === 'yes'}
			<form method="POST" action="?/{c.key}" use:enhance bind:this={forms[p.id + c.key]}>
				<Hidden name="code" value={p.code} />
				<Hidden name={c.key} value={is ? 'no' : 'yes'} />
				<Toggle
					size="sm"
					labelText={c.key === 'dock' ? `Goods arrive at ${p.code}` : `Picked goods wait at ${p.code}`}
					hideLabel
					labelA="no"
					labelB="yes"
					toggled={is}
					on:toggle={(e) => e.detail.toggled !== is && forms[p.id + c.key].requestSubmit()}
				/>
			</form>
		{/if}
	{/snippet}
	{#snippet acts(p)}
		<form method="POST" action="/devices?/print">
			<Hidden name="place" value={p.code} />
			<Button type="submit" kind="ghost" size="small" class="link"
				>Print label<span class="visually-hidden"> of {p.code}</span></Button
			>
		</form>
	{/snippet}
</List>
<History changes={data.history} what="places" />

<style>
	.what {
		align-self: center;
	}
</style>
