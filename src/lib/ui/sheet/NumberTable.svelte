<script lang="ts">
	// The rows of a line's marking sheet: what was entered, what was found about it, and how to mend it.
	import { shown } from '$lib/ui/shown';
	import type { AskedFact } from '$lib/core/facts/fact';
	import type { SheetLine, SheetRow } from '$lib/core/sheet/sheet';
	import FactField from '../facts/FactField.svelte';
	import Tag from '../tag/Tag.svelte';
	import Findings from './Findings.svelte';
	import { typed, type Data, type Sheet } from './sheet.svelte';

	interface Props {
		sheet: Sheet;
		line: SheetLine;
		output: boolean;
		/** id of the list of bins that rows may go to; none where they cannot */
		bins?: string;
	}
	let { sheet, line, output, bins }: Props = $props();
	const serials = $derived(line.tracking.includes('serial'));
	const lots = $derived(line.tracking.includes('lot'));
	const theirs = $derived(!output && line.supplierNumber !== 'ours');

	type Key = 'lot' | 'expiresOn' | 'supplierLot' | 'supplierSerial' | 'place';
	interface Column {
		key: Key;
		label: string;
		mono: boolean;
		size: number;
		list?: string;
	}
	const columns = $derived<Column[]>([
		...(lots ? [{ key: 'lot', label: 'Lot', mono: true, size: 14 } as const] : []),
		...(line.expiry !== 'not asked' ? [{ key: 'expiresOn', label: 'Expires', mono: false, size: 11 } as const] : []),
		...(lots && theirs ? [{ key: 'supplierLot', label: 'Supplier’s lot', mono: true, size: 12 } as const] : []),
		...(serials && theirs && line.rows.some((r) => r.supplierSerial)
			? [{ key: 'supplierSerial', label: 'Supplier’s serial', mono: true, size: 12 } as const]
			: []),
		...(bins ? [{ key: 'place', label: 'Bin', mono: true, size: 12, list: bins } as const] : [])
	]);

	/** With many columns what was found stands under its row, in one line. */
	const under = $derived(line.facts.length > 0);
	const width = $derived(columns.length + line.facts.length + (serials ? 1 : 0) + 2);

	const put = (row: SheetRow, data: Data) => sheet.put([{ id: row.id, version: row.version, lineId: line.id, data }]);
	/** A row as it would be with another value in a column; typing over a date that was worked out is remembered. */
	function changed(row: SheetRow, key: Key | 'qty', value: string): Data {
		const data: Data = { ...typed(row), [key]: value.trim().slice(0, 200) };
		if (!data[key]) delete data[key];
		if (key === 'expiresOn') {
			if (data.expiresOn && (row.expiryWorkedOut || row.expiryChanged)) data.expiryChanged = true;
			else delete data.expiryChanged;
		}
		return data;
	}
	function withFact(row: SheetRow, fact: AskedFact, value: string): Data {
		const { [fact.code]: _was, ...others } = row.facts;
		const facts = value.trim() ? { ...others, [fact.code]: value.trim() } : others;
		const { facts: _f, ...data } = typed(row);
		return Object.keys(facts).length ? { ...data, facts } : data;
	}
	/** Copies a column's value into every row entered after this one; one act for Ctrl+Z. */
	const places = $derived(new Map(line.rows.map((r, i) => [r.id, i])));
	const after = (row: SheetRow) => line.rows.length - 1 - (places.get(row.id) ?? 0);
	function copyDown(row: SheetRow, make: (to: SheetRow) => Data) {
		const to = line.rows.slice(line.rows.length - after(row));
		if (to.length) sheet.put(to.map((r) => ({ id: r.id, version: r.version, lineId: line.id, data: make(r) })));
	}
	/** Ctrl+D copies down; the arrows and Enter go from row to row in a column. */
	function walk(e: KeyboardEvent, column: string, copy: () => void) {
		if (e.ctrlKey && e.key.toLowerCase() === 'd') {
			e.preventDefault();
			(e.target as HTMLElement).dispatchEvent(new Event('change', { bubbles: true }));
			return copy();
		}
		const step = e.key === 'ArrowUp' ? -1 : e.key === 'ArrowDown' || e.key === 'Enter' ? 1 : 0;
		if (!step || e.ctrlKey || (e.target instanceof HTMLSelectElement && e.key !== 'Enter')) return;
		const all = [
			...(e.currentTarget as HTMLElement)
				.closest('table')!
				.querySelectorAll<HTMLElement>(`[data-column="${CSS.escape(column)}"] :is(input, select)`)
		];
		const next = all[all.indexOf(e.target as HTMLElement) + step];
		if (!next) return;
		e.preventDefault();
		next.focus();
		if (next instanceof HTMLInputElement) next.select();
	}
	// A long sheet shows what is to be mended first, then what came last.
	let most = $state(40);
	const shownRows = $derived(
		line.rows.length <= most
			? line.rows
			: [
					...line.rows.filter((r) => r.findings.some((f) => f.level !== 'note')),
					...line.rows.filter((r) => r.findings.every((f) => f.level === 'note')).reverse()
				].slice(0, most)
	);
	/** What came under a known lot goes into it: with its number, and its recorded date. */
	function useLot(row: SheetRow, number: string) {
		const { expiresOn: _e, ...data } = typed(row);
		put(row, { ...data, lot: number, ...(row.supplierLot ? {} : { supplierLot: row.lot }) });
	}
	const bad = (row: SheetRow) => row.findings.some((f) => f.level === 'stop');
	const name = (row: SheetRow) => row.serial || row.lot;
</script>

{#snippet findings(row: SheetRow)}
	<Findings findings={row.findings} good="new" onuse={(number) => useLot(row, number)} />
{/snippet}
{#snippet cell(row: SheetRow, c: Column)}
	<td data-column={c.key} data-label={c.label}
		><input
			class="plain"
			class:mono={c.mono}
			aria-label={c.label}
			use:shown={row[c.key]}
			size={c.size}
			list={c.list}
			placeholder={c.key === 'place' ? (sheet.state.place ?? '') : ''}
			onkeydown={(e) =>
				walk(e, c.key, () => copyDown(row, (to) => changed(to, c.key, (e.target as HTMLInputElement).value)))}
			onchange={(e) => put(row, changed(row, c.key, e.currentTarget.value))}
		/>{@render down(row, c.label, (to) =>
			changed(to, c.key, row[c.key])
		)}{#if c.key === 'expiresOn' && row.expiryWorkedOut}<span class="soft small">{row.expiryFrom}</span>{/if}</td
	>
{/snippet}
{#snippet down(row: SheetRow, label: string, make: (to: SheetRow) => Data)}
	{#if after(row)}<button
			class="down"
			tabindex="-1"
			title="Copy into the {after(row).toLocaleString('en')} rows after it (Ctrl+D)"
			onclick={() => copyDown(row, make)}
			><span aria-hidden="true">↓</span><span class="visually-hidden"
				>Copy {label} of {name(row)} into the rows after it</span
			></button
		>{/if}
{/snippet}

{#if line.rows.length}
	<div class="wide">
		<table class="rows">
			<thead>
				<tr>
					{#if serials}<th>Serial</th>{/if}
					{#if lots}<th>Lot</th>{/if}
					<th class="num">{serials ? 'Pieces' : `Quantity, ${line.unit}`}</th>
					{#each columns.filter((c) => c.key !== 'lot') as c (c.key)}<th>{c.label}</th>{/each}
					{#each line.facts as f (f.code)}<th
							>{f.name}{#if f.unit}, {f.unit}{/if}</th
						>{/each}
					{#if !under}<th>Check</th>{/if}
					<th><span class="visually-hidden">Take out</span></th>
				</tr>
			</thead>
			<tbody>
				{#each shownRows as row (row.id)}
					<tr class:bad={bad(row)}>
						{#if serials}<td
								>{#if row.serial}<Tag
										kind="serial"
										number={row.serial}
										last={row.last}
										count={row.count}
									/>{#if row.step > 1}<span class="soft small">in steps of {row.step}</span>{/if}{:else}<Tag
										kind="unmarked"
										number=""
									/>{/if}</td
							>{/if}
						{#each columns.filter((c) => c.key === 'lot') as c (c.key)}{@render cell(row, c)}{/each}
						<td class="num" data-label={serials ? 'Pieces' : `Quantity, ${line.unit}`}>
							{#if row.serial}{row.count.toLocaleString('en')}{:else}<input
									class="plain num"
									aria-label="Quantity"
									use:shown={row.qty}
									size="9"
									onchange={(e) => put(row, changed(row, 'qty', e.currentTarget.value))}
								/>{/if}
						</td>
						{#each columns.filter((c) => c.key !== 'lot') as c (c.key)}{@render cell(row, c)}{/each}
						{#each line.facts as f (f.code)}
							<td data-column="fact {f.code}" data-label="{f.name}{f.unit ? `, ${f.unit}` : ''}"
								><FactField
									fact={f}
									says={f.name}
									value={row.facts[f.code] ?? ''}
									onkeydown={(e) =>
										walk(e, `fact ${f.code}`, () =>
											copyDown(row, (to) => withFact(to, f, (e.target as HTMLInputElement).value))
										)}
									onchange={(value) => put(row, withFact(row, f, value))}
								/>{@render down(row, f.name, (to) => withFact(to, f, row.facts[f.code] ?? ''))}</td
							>
						{/each}
						{#if !under}<td class="check">{@render findings(row)}</td>{/if}
						<td class="num"
							><button class="link" onclick={() => sheet.remove([row.id])}
								>Take out<span class="visually-hidden"> {name(row)}</span></button
							></td
						>
					</tr>
					{#if under && row.findings.length}<tr class="under" class:bad={bad(row)}
							><td class="check" colspan={width}>{@render findings(row)}</td></tr
						>{/if}
				{/each}
			</tbody>
		</table>
	</div>
	{#if line.rows.length > most}<p class="more">
			{most.toLocaleString('en')} of {line.rows.length.toLocaleString('en')} rows shown, those to mend first, then the latest.
			<button class="link" onclick={() => (most += 500)}>Show more</button>
		</p>{/if}
{/if}

<style>
	.wide {
		overflow-x: auto;
		contain: layout style paint;
	}
	.more {
		margin: 0.4rem 0.75rem;
		font-size: 0.8125rem;
	}
	.rows th,
	.rows td {
		padding: 0 0.5rem;
	}
	.rows th:first-child,
	.rows td:first-child {
		padding-left: 0.75rem;
	}
	tr.under td {
		height: auto;
		padding-bottom: 0.3rem;
	}
	tr:has(+ tr.under) td {
		border-bottom: 0;
	}
	tr.bad {
		background: var(--red-soft);
	}
	td {
		white-space: nowrap;
	}
	td :global(.plain) {
		height: 26px;
		border-color: transparent;
		background: transparent;
	}
	td :global(.plain:hover),
	td :global(.plain:focus) {
		border-color: var(--tag-rule);
		background: var(--paper);
	}
	/* Seen where the hand is: in the row that is pointed at or typed in. */
	.down {
		border: 0;
		background: none;
		color: var(--link);
		cursor: pointer;
		padding: 0 0.25rem;
		opacity: 0;
	}
	td:hover .down,
	td:focus-within .down {
		opacity: 1;
	}
	.check {
		font-size: 0.8125rem;
		white-space: normal;
		min-width: 12rem;
	}
	.small {
		font-size: 0.75rem;
		margin-left: 0.25rem;
	}
	@media (max-width: 640px) {
		table.rows,
		.rows thead,
		.rows tbody,
		.rows tr,
		.rows td {
			display: block;
			height: auto;
		}
		.rows thead {
			display: none;
		}
		.rows td {
			padding: 0.2rem 0.75rem;
			border: 0;
			text-align: left;
		}
		.rows td[data-label]::before {
			content: attr(data-label);
			display: inline-block;
			width: 9rem;
			font-size: 0.75rem;
			color: var(--ink-soft);
		}
		.rows td[data-label] :global(.num) {
			text-align: left;
		}
		.rows tr {
			border-bottom: 1px solid var(--rule);
			padding: 0.4rem 0;
		}
	}
</style>
