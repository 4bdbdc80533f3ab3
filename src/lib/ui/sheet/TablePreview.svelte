<script lang="ts">
	// A table before it goes into the sheet: what each column is, and which rows are faulty.
	import { fieldsFor, guess, mapRows, type Mapping, type TableRow } from '$lib/core/tables/table';
	import type { SheetLine } from '$lib/core/sheet/sheet';
	interface Props {
		name: string;
		cells: string[][];
		line: SheetLine;
		lot: string;
		ontake: (rows: TableRow[], numbers: number) => void;
		onleave: () => void;
	}
	let { name, cells, line, lot, ontake, onleave }: Props = $props();
	const width = $derived(Math.max(...cells.map((r) => r.length)));
	// svelte-ignore state_referenced_locally
	const first = guess(
		Array.from({ length: width }, (_, i) => cells[0][i] ?? ''),
		line
	);
	let headings = $state(first.headings);
	let mapping = $state<Mapping>(first.mapping);
	const fields = $derived(fieldsFor(line));
	const made = $derived(mapRows(cells, mapping, headings ? 1 : 0, line, lot));
	const faulty = $derived(new Set(made.faults.map((f) => f.row)));
	const start = $derived(headings ? 1 : 0);
	let button = $state<HTMLButtonElement>();
	$effect(() => button?.focus());
	/** Seen at once, faults and all, above the bar at the foot. */
	const show = (el: HTMLElement) => el.scrollIntoView({ block: 'nearest' });
</script>

<div class="preview" {@attach show} role="group" aria-label="Table from {name}">
	<p>
		<b>{name}</b>: {made.numbers.toLocaleString('en')}
		{made.numbers === 1 ? 'row' : 'rows'}.
		<label><input type="checkbox" bind:checked={headings} /> The first row is headings</label>
	</p>
	<div class="wide">
		<table class="rows">
			<thead>
				<tr
					><th>Row</th>{#each Array.from({ length: width }, (_, i) => i) as c (c)}<th
							><select
								class="plain"
								aria-label="Column {c + 1} is"
								value={mapping[c] ?? ''}
								onchange={(e) => (mapping[c] = (e.currentTarget.value || null) as Mapping[number])}
								><option value="">left out</option>{#each fields as f (f.field)}<option value={f.field}
										>{f.label}</option
									>{/each}</select
							>{#if headings}<span class="soft">{cells[0][c] ?? ''}</span>{/if}</th
						>{/each}</tr
				>
			</thead>
			<tbody>
				{#each cells.slice(start, start + 6) as row, i (i)}
					<tr class:bad={faulty.has(i + start + 1)}
						><td class="soft">{i + start + 1}</td>{#each Array.from({ length: width }, (_, c) => c) as c (c)}<td
								class="mono">{row[c] ?? ''}</td
							>{/each}</tr
					>
				{/each}
			</tbody>
		</table>
	</div>
	{#if cells.length - start > 6}<p class="soft">and {(cells.length - start - 6).toLocaleString('en')} more rows</p>{/if}
	{#if made.faults.length}
		<ul>
			{#each made.faults.slice(0, 8) as f, i (i)}<li>Row {f.row}: {f.message}</li>{/each}
			{#if made.faults.length > 8}<li>and {(made.faults.length - 8).toLocaleString('en')} more</li>{/if}
		</ul>
		<p>Mend the file and drop it again, or say above what its columns are. Nothing is entered yet.</p>
	{/if}
	<p>
		<button
			class="go"
			bind:this={button}
			disabled={made.faults.length > 0 || !made.rows.length}
			onclick={() => ontake(made.rows, made.numbers)}
			>Enter {made.numbers.toLocaleString('en')} {made.numbers === 1 ? 'row' : 'rows'}</button
		>
		<button class="link leave" onclick={onleave}>Leave it</button>
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
	.leave {
		margin-left: 1rem;
	}
	.wide {
		overflow-x: auto;
	}
	th .soft {
		display: block;
		font-weight: 400;
	}
	.bad td,
	ul {
		color: var(--red);
	}
	ul {
		margin: 0.3rem 0;
		padding-left: 1.1rem;
		font-size: 0.8125rem;
	}
</style>
