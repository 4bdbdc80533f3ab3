<script lang="ts">
	import { enhance } from '$app/forms';
	import { Button } from 'carbon-components-svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Quantity from '$lib/ui/fields/Quantity.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import List from '$lib/ui/list/List.svelte';
	import CloseAct from '$lib/ui/setup/CloseAct.svelte';
	import History from '$lib/ui/setup/History.svelte';
	import { typedBefore } from '$lib/ui/setup/typed';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	const was = (name: string) => String(typedBefore(form)[name] ?? '');
	/** the one that is changed, with what stands in its fields */
	let changing = $state<Record<string, string> | null>(null);
	const field = (name: string) => changing?.[name] ?? was(name);
</script>

<p class="soft">
	How goods go to a customer. What they weigh by their size is worked out with the way's own divisor, or the firm's;
	carriage is the chargeable weight by the rate, at least the minimum, and stands on the order and its papers.
</p>
<Said {form} />
<form method="POST" action="?/divisor" class="panel fields add" use:enhance>
	<Quantity label="The firm's divisor, cm³ for a kg" name="divisor" ch={8} value={String(data.divisor)} />
	<Button type="submit" size="small" kind="tertiary">Save</Button>
</form>
{#key changing?.code}
	<form method="POST" action={changing ? '?/change' : '?/add'} class="panel fields add" use:enhance>
		{#if changing}<Hidden name="code" value={changing.code} /><span class="mono code">{changing.code}</span>{:else}<Text
				label="Code"
				name="code"
				value={field('code')}
				mono
				required
				ch={10}
				maxlength="20"
			/>{/if}
		<Text label="Name" name="name" value={field('name')} required ch={24} maxlength="100" />
		<Text
			label="cm³ for a kg"
			name="divisor"
			value={field('divisor')}
			num
			ch={8}
			placeholder={String(data.divisor)}
			maxlength="10"
		/>
		<Quantity label="For a kg" name="rate" value={field('rate')} ch={8} placeholder="none" />
		<Quantity label="At least" name="minimum" value={field('minimum')} ch={8} placeholder="none" />
		<Text label="Currency" name="currency" value={field('currency') || 'EUR'} mono ch={5} maxlength="3" required />
		<Button type="submit" size="small">{changing ? 'Save' : 'Add way of delivery'}</Button>
		{#if changing}<Button kind="ghost" size="small" on:click={() => (changing = null)}>Leave it</Button>{/if}
	</form>
{/key}
<List list={data.list}>
	{#snippet acts(w)}
		<Button
			kind="ghost"
			size="small"
			class="link"
			on:click={() =>
				(changing = Object.fromEntries(Object.entries(w).map(([k, v]) => [k, v === null ? '' : String(v)])))}
			>Change<span class="visually-hidden"> {w.name}</span></Button
		>
		<CloseAct value={w.code} closed={!!w.closed} name={w.name} />
	{/snippet}
</List>
<History changes={data.history} what="ways of delivery" />

<style>
	.code {
		align-self: end;
		line-height: 32px;
	}
</style>
