<script lang="ts">
	import { showWhen } from '$lib/ui/dates';
	import { COST_DECIMALS } from '$lib/core/cost/cost';
	import { grouped, written } from '$lib/core/quantity/sign';
	import { unitWord } from '$lib/core/quantity/units';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import GridField from '../fields/GridField.svelte';
	// The rows of a line's marking sheet: what was entered, what was found about it, and how to mend it.
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
		/** to be looked at only */
		readonly?: boolean;
	}
	let { sheet, line, output, bins, readonly = false }: Props = $props();
	const serials = $derived(line.tracking.includes('serial'));
	const lots = $derived(line.tracking.includes('lot'));
	const theirs = $derived(!output && line.supplierNumber !== 'ours');

	type Key = 'lot' | 'expiresOn' | 'supplierLot' | 'supplierSerial' | 'place' | 'cost';
	interface Column {
		key: Key;
		label: string;
		mono: boolean;
		size: number;
		list?: string;
		decimals?: number;
	}
	const columns = $derived<Column[]>([
		...(lots ? [{ key: 'lot', label: 'Lot', mono: true, size: 14 } as const] : []),
		...(line.expiry !== 'not asked' ? [{ key: 'expiresOn', label: 'Expires', mono: false, size: 11 } as const] : []),
		...(lots && theirs ? [{ key: 'supplierLot', label: 'Supplier’s lot', mono: true, size: 12 } as const] : []),
		...(serials && theirs && line.rows.some((r) => r.supplierSerial)
			? [{ key: 'supplierSerial', label: 'Supplier’s serial', mono: true, size: 12 } as const]
			: []),
		...(line.costs
			? [{ key: 'cost', label: 'Cost of one', mono: false, size: 9, decimals: COST_DECIMALS } as const]
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
	/** Its number in the sheet, from 1: what a screen reader calls it by. */
	const at = (row: SheetRow) => (places.get(row.id) ?? 0) + 1;
	const bad = (row: SheetRow) => row.findings.some((f) => f.level === 'stop');
	const name = (row: SheetRow) => row.serial || row.lot;
</script>

{#snippet findings(row: SheetRow)}
	<Findings findings={row.findings} good={sheet.checking ? '' : 'new'} onuse={(number) => useLot(row, number)} />
{/snippet}
{#snippet cell(row: SheetRow, c: Column)}
	<TableCell data-column={c.key} data-label={c.label}
		><GridField
			label="{c.label}, row {at(row)}"
			value={c.key === 'expiresOn' ? showWhen(row[c.key]) : row[c.key]}
			mono={c.mono}
			ch={c.size}
			list={c.list}
			decimals={c.decimals}
			placeholder={c.key === 'place'
				? (sheet.state.place ?? '')
				: c.key === 'cost'
					? row.costProposed
						? written(row.costProposed.cost)
						: 'to come'
					: ''}
			onkeydown={(e) =>
				walk(e, c.key, () => copyDown(row, (to) => changed(to, c.key, (e.target as HTMLInputElement).value)))}
			onchange={(value) => put(row, changed(row, c.key, value))}
		/>{@render down(row, c.label, (to) =>
			changed(to, c.key, row[c.key])
		)}{#if c.key === 'expiresOn' && row.expiryWorkedOut}<span class="soft small">{row.expiryFrom}</span
			>{/if}{#if c.key === 'cost' && row.costProposed && !row.cost}<span class="soft small"
				>{row.costProposed.ground}</span
			>{/if}</TableCell
	>
{/snippet}
{#snippet down(row: SheetRow, label: string, make: (to: SheetRow) => Data)}
	{#if after(row) && !readonly}<Button
			kind="ghost"
			size="small"
			class="link down"
			tabindex={-1}
			title="Copy into the {grouped(after(row))} rows after it (Ctrl+D)"
			on:click={() => copyDown(row, make)}
			><span aria-hidden="true">↓</span><span class="visually-hidden"
				>Copy {label} of {name(row)} into the rows after it</span
			></Button
		>{/if}
{/snippet}

{#if line.rows.length}
	<fieldset class="wide" disabled={readonly}>
		<Table size="short" aria-label="{line.itemName}: entered" aria-rowcount={line.rows.length}>
			<TableHead>
				<TableRow>
					{#if serials}<TableHeader>Serial</TableHeader>{/if}
					{#if lots}<TableHeader>Lot</TableHeader>{/if}
					<TableHeader class="num">{serials ? 'Pieces' : `Quantity, ${unitWord(line.unit)}`}</TableHeader>
					{#each columns.filter((c) => c.key !== 'lot') as c (c.key)}<TableHeader>{c.label}</TableHeader>{/each}
					{#each line.facts as f (f.code)}<TableHeader
							>{f.name}{#if f.unit}, {f.unit}{/if}</TableHeader
						>{/each}
					{#if !under}<TableHeader>Check</TableHeader>{/if}
					<TableHeader><span class="visually-hidden">Remove</span></TableHeader>
				</TableRow>
			</TableHead>
			<TableBody>
				{#each shownRows as row (row.id)}
					<TableRow class={bad(row) ? 'bad' : ''}>
						{#if serials}<TableCell
								>{#if row.serial}<Tag
										kind="serial"
										number={row.serial}
										last={row.last}
										count={row.count}
									/>{#if row.step > 1}<span class="soft small">in steps of {row.step}</span>{/if}{:else}<Tag
										kind="unmarked"
										number=""
									/>{/if}{#if row.known}<span class="soft small">{row.known}</span>{/if}</TableCell
							>{/if}
						{#each columns.filter((c) => c.key === 'lot') as c (c.key)}{@render cell(row, c)}{/each}
						<TableCell class="num" data-label={serials ? 'Pieces' : `Quantity, ${unitWord(line.unit)}`}>
							{#if !serials && row.known}<span class="soft small">{row.known}</span>{/if}
							{#if row.serial}{grouped(row.count)}{:else}<GridField
									label="Quantity, row {at(row)}"
									value={row.qty}
									decimals={line.decimals}
									ch={9}
									onchange={(value) => put(row, changed(row, 'qty', value))}
								/>{/if}
						</TableCell>
						{#each columns.filter((c) => c.key !== 'lot') as c (c.key)}{@render cell(row, c)}{/each}
						{#each line.facts as f (f.code)}
							<TableCell data-column="fact {f.code}" data-label="{f.name}{f.unit ? `, ${f.unit}` : ''}"
								><FactField
									grid
									fact={f}
									says="{f.name}, row {at(row)}"
									value={row.facts[f.code] ?? ''}
									onkeydown={(e) =>
										walk(e, `fact ${f.code}`, () =>
											copyDown(row, (to) => withFact(to, f, (e.target as HTMLInputElement).value))
										)}
									onchange={(value) => put(row, withFact(row, f, value))}
								/>{@render down(row, f.name, (to) => withFact(to, f, row.facts[f.code] ?? ''))}</TableCell
							>
						{/each}
						{#if !under}<TableCell class="check">{@render findings(row)}</TableCell>{/if}
						<TableCell class="num"
							>{#if !readonly}<Button kind="ghost" size="small" class="link" on:click={() => sheet.remove([row.id])}
									>Remove<span class="visually-hidden"> {name(row)}</span></Button
								>{/if}</TableCell
						>
					</TableRow>
					{#if under && row.findings.length}<TableRow class="under {bad(row) ? 'bad' : ''}"
							><TableCell class="check" colspan={width}>{@render findings(row)}</TableCell></TableRow
						>{/if}
				{/each}
			</TableBody>
		</Table>
	</fieldset>
	{#if line.rows.length > most}<p class="more">
			{grouped(most)} of {grouped(line.rows.length)} rows shown, those to correct first, then the latest.
			<Button kind="ghost" size="small" class="link" on:click={() => (most += 500)}>Show more</Button>
		</p>{/if}
{/if}

<style>
	.wide {
		margin: 0;
		padding: 0;
		border: 0;
		min-width: 0;
		position: relative;
		overflow-x: auto;
		contain: layout style paint;
	}
	.more {
		margin: 0.4rem 0.75rem;
		font-size: 0.8125rem;
	}
	.wide :global(:is(th, td)) {
		padding: 0 0.5rem;
	}
	.wide :global(:is(th, td):first-child) {
		padding-left: 0.75rem;
	}
	@media (min-width: 641px) {
		.wide :global(td:not(.check)) {
			white-space: nowrap;
		}
	}
	.wide :global(tr.under td) {
		padding-bottom: 0.3rem;
	}
	.wide :global(tr:has(+ tr.under) td) {
		border-bottom-color: transparent;
	}
	.wide :global(.cell) {
		border-color: transparent;
		background: transparent;
	}
	.wide:disabled :global(.cell) {
		color: var(--ink);
		-webkit-text-fill-color: currentcolor;
	}
	.wide:enabled :global(td:hover .cell),
	.wide :global(.cell:focus) {
		border-color: var(--field-rule);
		background: var(--paper);
	}
	/* Seen where the hand is: in the row that is pointed at or typed in. */
	.wide :global(.down) {
		opacity: 0;
	}
	.wide :global(td:hover .down),
	.wide :global(td:focus-within .down) {
		opacity: 1;
	}
	.small {
		font-size: 0.75rem;
		margin-left: 0.25rem;
	}
</style>
