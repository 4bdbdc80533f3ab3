<script lang="ts">
	import FilePick from '$lib/ui/files/FilePick.svelte';
	import { enhance } from '$app/forms';
	import { DOCUMENT_NAMES, documentPath } from '$lib/core/document/kinds';
	import { inSentence } from '$lib/core/marking/sentence';
	import {
		Button,
		TextArea,
		Table,
		TableBody,
		TableCell,
		TableHead,
		TableHeader,
		TableRow
	} from 'carbon-components-svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	let { form } = $props();
	const result = $derived(form && 'result' in form ? form.result : null);
	const text = $derived(String(form ? ('csv' in form ? form.csv : ((form.typed as { csv?: string })?.csv ?? '')) : ''));
	const example =
		'order,kind,partner,place,due,item,qty\nPO-5001,purchase,QUILLMERE,QS/DOCK,2027-03-01,DPD,5000\nPO-5001,purchase,QUILLMERE,QS/DOCK,2027-03-01,BUFFER-SALT,100\nSO-7001,sale,THORNMERE,QS,2027-03-04,FK,2';
</script>

<p class="soft">
	One row a line; rows with the same order number make one order. Kind is one of {inSentence(DOCUMENT_NAMES)}; an issue
	names its job, an adjustment its reason, in a column of that name. Everything is checked first; nothing is added while
	a row is faulty.
</p>
<Faults faults={form && 'faults' in form ? (form.faults ?? []) : []} />
{#if result?.made}
	<p role="status">
		Added {result.orders.length} orders from {result.rows} rows: {#each result.orders.slice(0, 12) as o (o.code)}<a
				class="mono"
				href={documentPath(o.kind, o.code)}>{o.code}</a
			>&nbsp;
		{/each}
	</p>
{:else if result}
	<div class="panel said" role="status">
		<h2>
			{result.rows} rows: {result.faults.length
				? `${result.faults.length} to correct`
				: `${result.orders.length} orders, nothing to correct`}
		</h2>
		{#if result.faults.length}
			<Table size="short">
				<TableHead
					><TableRow><TableHeader>Where</TableHeader><TableHeader>What to correct</TableHeader></TableRow></TableHead
				><TableBody
					>{#each result.faults.slice(0, 200) as f, i (i)}<TableRow
							><TableCell class="mono">{f.at}</TableCell><TableCell>{f.message}</TableCell></TableRow
						>{/each}</TableBody
				>
			</Table>
		{/if}
	</div>
{/if}
<form
	method="POST"
	enctype="multipart/form-data"
	use:enhance={() =>
		({ update }) =>
			update({ reset: false })}
>
	<TextArea
		labelText="CSV, pasted or typed"
		class="mono"
		name="csv"
		rows={10}
		placeholder={example}
		spellcheck="false"
		value={text}
	/>
	<div class="fields">
		<FilePick label="Or choose a file" name="file" accept=".csv" />
		<span class="push">
			<Button type="submit" size="small" kind="tertiary" name="do" value="check">Check</Button>
			<Button
				type="submit"
				size="small"
				name="do"
				value="import"
				disabled={!result || result.made || result.faults.length > 0}>Add the orders</Button
			>
		</span>
	</div>
</form>

<style>
	.fields {
		margin-top: 0.75rem;
	}
	.push {
		margin-left: auto;
		display: flex;
		gap: 0.5rem;
	}
	.said {
		padding: 0.6rem 0.75rem;
		margin-bottom: 0.75rem;
	}
</style>
