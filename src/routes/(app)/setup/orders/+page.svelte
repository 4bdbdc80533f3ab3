<script lang="ts">
	import { enhance } from '$app/forms';
	import { DOCUMENT_NAMES, documentPath } from '$lib/core/document/kinds';
	import { inSentence } from '$lib/core/marking/sentence';
	import { Button } from 'carbon-components-svelte';
	import Faults from '$lib/ui/shell/Faults.svelte';
	let { form } = $props();
	const result = $derived(form && 'result' in form ? form.result : null);
	const text = $derived(String(form ? ('csv' in form ? form.csv : ((form.typed as { csv?: string })?.csv ?? '')) : ''));
	const example =
		'order,kind,partner,place,due,item,qty\nPO-5001,purchase,QUILLMERE,QS/DOCK,2027-03-01,DPD,5000\nPO-5001,purchase,QUILLMERE,QS/DOCK,2027-03-01,BUFFER-SALT,100\nSO-7001,sale,THORNMERE,QS,2027-03-04,FK,2';
</script>

<p class="soft">
	One row a line; rows with the same order number make one order. Kind is one of {inSentence(DOCUMENT_NAMES)}; an issue
	names its job in a column of that name. Everything is checked first; nothing is made while a row is faulty.
</p>
<Faults faults={form && 'faults' in form ? (form.faults ?? []) : []} />
{#if result?.made}
	<p role="status">
		Made {result.orders.length} orders from {result.rows} rows: {#each result.orders.slice(0, 12) as o (o.code)}<a
				class="mono"
				href={documentPath(o.kind, o.code)}>{o.code}</a
			>&nbsp;
		{/each}
	</p>
{:else if result}
	<div class="panel said" role="status">
		<h2>
			{result.rows} rows: {result.faults.length
				? `${result.faults.length} to mend`
				: `${result.orders.length} orders, nothing to mend`}
		</h2>
		{#if result.faults.length}
			<table class="rows">
				<thead><tr><th>Where</th><th>What to mend</th></tr></thead><tbody
					>{#each result.faults.slice(0, 200) as f, i (i)}<tr><td class="mono">{f.at}</td><td>{f.message}</td></tr
						>{/each}</tbody
				>
			</table>
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
	<label class="field"
		>CSV, pasted or typed<textarea
			class="plain mono"
			name="csv"
			rows="10"
			placeholder={example}
			spellcheck="false"
			value={text}></textarea></label
	>
	<div class="fields">
		<label class="field">or a file<input type="file" name="file" accept=".csv,text/csv" /></label>
		<span class="push">
			<Button type="submit" size="field" kind="tertiary" name="do" value="check">Check</Button>
			<Button
				type="submit"
				size="field"
				name="do"
				value="import"
				disabled={!result || result.made || result.faults.length > 0}>Make the orders</Button
			>
		</span>
	</div>
</form>

<style>
	textarea {
		height: auto;
		padding: 0.5rem;
		line-height: 1.5;
	}
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
