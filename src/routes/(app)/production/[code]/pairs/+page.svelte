<script lang="ts">
	import { enhance } from '$app/forms';
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
	import { inSentence } from '$lib/core/marking/sentence';
	import { grouped, typedNumber } from '$lib/core/quantity/sign';
	import { readCells } from '$lib/core/tables/table';
	import FilePick from '$lib/ui/files/FilePick.svelte';
	import { readPicked } from '$lib/ui/files/picked';
	import Hidden from '$lib/ui/fields/Hidden.svelte';
	import Message from '$lib/ui/shell/Message.svelte';
	import Said from '$lib/ui/shell/Said.svelte';
	let { data, form } = $props();
	let text = $state('');
	let problem = $state('');
	/** Headings are left out: a first row without a digit in it. */
	const cells = $derived.by(() => {
		const all = readCells(text);
		return all[0] && !/\d/.test(all[0].join('')) ? all.slice(1) : all;
	});
	const rows = $derived(
		cells.map(([unit = '', part = '', qty = '', bin = '']) => ({ unit, part, qty: typedNumber(qty), bin }))
	);
	const json = $derived(JSON.stringify(rows));
	const result = $derived(form && 'result' in form ? form.result : null);
	/** What was looked at is what would be put in. */
	const looked = $derived(!!form && 'looked' in form && form.looked === json);
	const good = $derived(result?.rows.filter((r) => r.taken).length ?? 0);
	async function pick(file: File) {
		problem = '';
		try {
			const read = await readPicked(file);
			text = read.text ?? (read.cells ?? []).map((r) => r.join('\t')).join('\n');
		} catch (e) {
			problem = (e as Error).message;
		}
	}
	async function drop(e: DragEvent) {
		const [file] = e.dataTransfer?.files ?? [];
		if (!file) return;
		e.preventDefault();
		await pick(file);
	}
</script>

<svelte:head><title>Parts by hand {data.code} · Earmark</title></svelte:head>
<div class="head">
	<h1>Parts by hand: <a href="/production/{encodeURIComponent(data.code)}">{data.code}</a></h1>
	<span class="soft">{data.itemName}</span>
</div>
{#if !data.units}<p class="panel hint">
		{data.itemName} is made as one batch: what goes in is entered in
		<a href="/production/{encodeURIComponent(data.code)}">its sheet</a>.
	</p>
{:else}
	<p class="soft">
		A row a part: the unit, the lot or serial that went into it, how much where it is not what is missing, and the bin
		where it lies in several. Wanted in each unit: {inSentence(data.parts)}. What is entered here waits in the
		<a href="/production/review?order={encodeURIComponent(data.code)}">review</a>.
	</p>
	{#if problem}<Message kind="error">{problem}</Message>{/if}
	<Said {form} />
	<div role="group" aria-label="Pairs, typed, pasted or dropped" ondragover={(e) => e.preventDefault()} ondrop={drop}>
		<TextArea
			labelText="Unit, part, quantity, bin: typed, or pasted from a table"
			class="mono"
			rows={8}
			placeholder={'WM-0207\tVB-0031\nWM-0207\tC-26-04\t2'}
			spellcheck="false"
			bind:value={text}
		/>
	</div>
	<form
		method="POST"
		use:enhance={() =>
			({ update }) =>
				update({ reset: false })}
	>
		<div class="fields below">
			<Hidden name="rows" value={json} />
			<FilePick label="Or choose a file (CSV, XLSX)" accept=".csv,.txt,.xlsx" onpick={pick} />
			<span class="push">
				<Button type="submit" size="small" kind="tertiary" formaction="?/look" disabled={!rows.length}
					>Check {grouped(rows.length)} {rows.length === 1 ? 'row' : 'rows'}</Button
				>
				<Button type="submit" size="small" formaction="?/put" disabled={!looked || !good}
					>Put {looked ? grouped(good) : ''} in</Button
				>
			</span>
		</div>
	</form>
	{#if result}
		<section class="panel">
			<Table size="short">
				<TableHead
					><TableRow
						><TableHeader>Row</TableHeader><TableHeader>Unit</TableHeader><TableHeader>Part</TableHeader><TableHeader
							>{looked ? 'What would come of it' : 'What came of it'}</TableHeader
						></TableRow
					></TableHead
				>
				<TableBody>
					{#each result.rows.slice(0, 500) as r, i (i)}
						<TableRow class={r.taken ? '' : 'bad'}
							><TableCell class="soft">{i + 1}</TableCell><TableCell class="mono">{rows[i]?.unit ?? ''}</TableCell
							><TableCell class="mono">{rows[i]?.part ?? ''}</TableCell><TableCell>{r.said}</TableCell></TableRow
						>
					{/each}
				</TableBody>
			</Table>
		</section>
		{#if result.rows.length > 500}<p class="soft">500 of {grouped(result.rows.length)} rows shown.</p>{/if}
	{/if}
{/if}

<style>
	.hint {
		padding: 0.75rem;
		margin: 0;
	}
	.below {
		margin: 0.75rem 0;
	}
	.push {
		margin-left: auto;
		display: flex;
		gap: 0.5rem;
	}
</style>
