<script lang="ts">
	// A count: where, and of it all, some items, what was not counted for long, or some in a random sample.
	import { Button } from 'carbon-components-svelte';
	import Choose from '$lib/ui/fields/Choose.svelte';
	import DayField from '$lib/ui/fields/DayField.svelte';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Seek from '$lib/ui/fields/Seek.svelte';
	import Text from '$lib/ui/fields/Text.svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	let { data, form } = $props();
	const typed = $derived<Record<string, unknown>>({ ...form?.typed });
	const was = (name: string) => String(typed[name] ?? '');
	// svelte-ignore state_referenced_locally
	let items = $state<string[]>(typed.items ? JSON.parse(String(typed.items)) : []);
	let next = $state('');
	const names = $derived(new Map(data.items.map((i) => [i.code, i.name])));
	const all = $derived([...items, ...(next ? [next] : [])]);
	function add() {
		if (next && !items.includes(next)) items.push(next);
		next = '';
	}
</script>

<svelte:head><title>New count · Earmark</title></svelte:head>
<div class="head"><h1>New count</h1></div>
<Faults faults={form?.faults ?? []} />
<form method="POST" class="panel">
	<Hidden name="items" value={JSON.stringify(all)} />
	<div class="fields">
		<Choose
			label="Where"
			name="place"
			options={[['', 'choose a place'], ...data.places]}
			value={was('place') || data.place}
		/>
		<DayField label="By" name="dueOn" value={was('dueOn') || data.today} />
		<DayField label="Only what was not counted since" name="notSince" value={was('notSince')} />
		<Text
			label="Random sample size"
			name="sample"
			num
			ch={16}
			inputmode="numeric"
			value={was('sample')}
			placeholder="all"
		/>
		<Text label="Note" name="note" value={was('note')} maxlength="200" />
	</div>
	<div class="items">
		{#key items.length}<Seek
				label="Only of these items"
				words
				ch={28}
				options={data.items.filter((i) => !items.includes(i.code)).map((i) => [i.code, i.name] as const)}
				bind:value={next}
				placeholder="all items"
			/>{/key}
		<Button kind="ghost" size="small" class="link" disabled={!next} on:click={add}>Add another item</Button>
		{#each items as code, n (code)}<span
				>{names.get(code) ?? code}
				<Button kind="ghost" size="small" class="link" on:click={() => items.splice(n, 1)}
					>Remove<span class="visually-hidden"> {names.get(code) ?? code}</span></Button
				></span
			>{/each}
	</div>
	<div class="below"><Button type="submit" size="small">Make the count</Button></div>
</form>

<style>
	form {
		padding: 0.75rem;
	}
	.items {
		display: flex;
		flex-wrap: wrap;
		align-items: flex-end;
		gap: 0.5rem 1.25rem;
		margin-top: 0.75rem;
	}
	.below {
		display: flex;
		justify-content: flex-end;
		margin-top: 0.75rem;
	}
</style>
