<script lang="ts">
	import { grouped } from '$lib/core/quantity/sign';
	import {
		Button,
		Checkbox,
		Table,
		TableBody,
		TableCell,
		TableHead,
		TableHeader,
		TableRow
	} from 'carbon-components-svelte';
	// A table before it goes into the sheet: what each column is, and which rows are faulty.
	import Choose from '../fields/Choose.svelte';
	import { fieldsFor, guess, mapRows, type Mapping, type TableRow as Row } from '$lib/core/tables/table';
	import type { SheetLine } from '$lib/core/sheet/sheet';
	interface Props {
		name: string;
		cells: string[][];
		line: SheetLine;
		lot: string;
		/** lines of the same document: rows go to that of their item */
		others: readonly SheetLine[];
		ontake: (rows: Row[], numbers: number) => void;
		onleave: () => void;
	}
	let { name, cells, line, lot, others, ontake, onleave }: Props = $props();
	const width = $derived(Math.max(...cells.map((r) => r.length)));
	// svelte-ignore state_referenced_locally
	const first = guess(
		Array.from({ length: width }, (_, i) => cells[0][i] ?? ''),
		line,
		others
	);
	let headings = $state(first.headings);
	let mapping = $state<Mapping>(first.mapping);
	const fields = $derived(fieldsFor(line, mapping.includes('item') ? others : []));
	const made = $derived(mapRows(cells, mapping, headings ? 1 : 0, line, lot, others));
	/** to how many lines its rows go */
	const dealt = $derived(new Set(made.rows.map((r) => r.line ?? line.id)).size);
	const faulty = $derived(new Set(made.faults.map((f) => f.row)));
	const start = $derived(headings ? 1 : 0);
	let button = $state<HTMLButtonElement>();
	$effect(() => button?.focus());
	/** Seen at once, faults and all, above the bar at the foot. */
	const show = (el: HTMLElement) => el.scrollIntoView({ block: 'nearest' });
</script>

<div class="preview" {@attach show} role="group" aria-label="Table from {name}">
	<p>
		<b>{name}</b>: {grouped(made.numbers)}
		{made.numbers === 1 ? 'row' : 'rows'}{#if dealt > 1}, for {dealt} lines by their items{/if}.
		<Checkbox labelText="The first row is headings" bind:checked={headings} />
	</p>
	<div class="wide">
		<Table size="short">
			<TableHead>
				<TableRow
					><TableHeader>Row</TableHeader>{#each Array.from({ length: width }, (_, i) => i) as c (c)}<TableHeader
							><Choose
								label="Column {c + 1} is"
								hide
								value={mapping[c] ?? ''}
								options={[['', 'skipped'], ...fields.map((f) => [f.field, f.label] as const)]}
								onpick={(v) => (mapping[c] = (v || null) as Mapping[number])}
							/>{#if headings}<span class="soft">{cells[0][c] ?? ''}</span>{/if}</TableHeader
						>{/each}</TableRow
				>
			</TableHead>
			<TableBody>
				{#each cells.slice(start, start + 6) as row, i (i)}
					<TableRow class={faulty.has(i + start + 1) ? 'bad' : ''}
						><TableCell class="soft">{i + start + 1}</TableCell
						>{#each Array.from({ length: width }, (_, c) => c) as c (c)}<TableCell class="mono"
								>{row[c] ?? ''}</TableCell
							>{/each}</TableRow
					>
				{/each}
			</TableBody>
		</Table>
	</div>
	{#if cells.length - start > 6}<p class="soft">and {grouped(cells.length - start - 6)} more rows</p>{/if}
	{#if made.faults.length}
		<ul>
			{#each made.faults.slice(0, 8) as f, i (i)}<li>Row {f.row}: {f.message}</li>{/each}
			{#if made.faults.length > 8}<li>and {grouped(made.faults.length - 8)} more</li>{/if}
		</ul>
		<p>Correct the file and drop it again, or say above what its columns are. Nothing is entered yet.</p>
	{/if}
	<p>
		<Button
			size="small"
			bind:ref={button}
			disabled={made.faults.length > 0 || !made.rows.length}
			on:click={() => ontake(made.rows, made.numbers)}
			>Enter {grouped(made.numbers)} {made.numbers === 1 ? 'row' : 'rows'}</Button
		>
		<Button kind="ghost" size="small" class="link leave" on:click={onleave}>Cancel</Button>
	</p>
</div>

<style>
	.preview {
		scroll-margin: 60px 0 90px;
		border-left: 3px solid var(--amber);
		padding: 0.4rem 0.75rem 0.6rem;
		border-bottom: 1px solid var(--rule);
	}
	p {
		margin: 0.3rem 0;
	}
	.wide {
		position: relative;
		overflow-x: auto;
	}
	ul {
		margin: 0.3rem 0;
		padding-left: 1.1rem;
		font-size: 0.8125rem;
	}
</style>
