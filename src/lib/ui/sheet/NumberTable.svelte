<script lang="ts">
	// The rows of a line's marking sheet: what was entered, what was found about it, and how to mend it.
	import type { SheetLine, SheetRow } from '$lib/core/sheet/sheet';
	import Tag from '../tag/Tag.svelte';
	import Findings from './Findings.svelte';
	import { typed, type Sheet } from './sheet.svelte';

	let { sheet, line, output }: { sheet: Sheet; line: SheetLine; output: boolean } = $props();
	const serials = $derived(line.tracking.includes('serial'));
	const lots = $derived(line.tracking.includes('lot'));
	const dated = $derived(line.expiry !== 'not asked');
	function change(row: SheetRow, field: 'lot' | 'qty' | 'expiresOn' | 'supplierLot', value: string) {
		const data = { ...typed(row), [field]: value.trim().slice(0, 200) };
		if (!data[field]) delete data[field];
		sheet.put([{ id: row.id, version: row.version, lineId: line.id, data }]);
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
		sheet.put([{ id: row.id, version: row.version, lineId: line.id, data: { ...data, lot: number, ...(row.supplierLot ? {} : { supplierLot: row.lot }) } }]); // prettier-ignore
	}
	const bad = (row: SheetRow) => row.findings.some((f) => f.level === 'stop');
</script>

{#if line.rows.length}
	<table class="rows">
		<thead>
			<tr>
				{#if serials}<th>Serial</th>{/if}
				{#if lots}<th>Lot</th>{/if}
				<th class="num">{serials ? 'Pieces' : `Quantity, ${line.unit}`}</th>
				{#if dated}<th>Expires</th>{/if}
				{#if lots && !output}<th>Supplier’s lot</th>{/if}
				<th>Check</th>
				<th><span class="visually-hidden">Take out</span></th>
			</tr>
		</thead>
		<tbody>
			{#each shownRows as row (row.id)}
				<tr class:bad={bad(row)}>
					{#if serials}<td
							>{#if row.serial}<Tag kind="serial" number={row.serial} last={row.last} count={row.count} />{:else}<Tag
									kind="unmarked"
									number=""
								/>{/if}</td
						>{/if}
					{#if lots}
						<td
							><input
								class="plain mono"
								aria-label="Lot"
								value={row.lot}
								size="14"
								onchange={(e) => change(row, 'lot', e.currentTarget.value)}
							/></td
						>
					{/if}
					<td class="num">
						{#if row.serial}{row.count.toLocaleString('en')}{:else}<input
								class="plain num"
								aria-label="Quantity"
								value={row.qty}
								size="9"
								onchange={(e) => change(row, 'qty', e.currentTarget.value)}
							/>{/if}
					</td>
					{#if dated}
						<td
							><input
								class="plain"
								aria-label="Expires"
								value={row.expiresOn}
								size="11"
								onchange={(e) => change(row, 'expiresOn', e.currentTarget.value)}
							/>{#if row.expiryWorkedOut}<span class="soft small">{row.expiryFrom}</span>{/if}</td
						>
					{/if}
					{#if lots && !output}
						<td
							><input
								class="plain mono"
								aria-label="Supplier’s lot"
								value={row.supplierLot}
								size="12"
								onchange={(e) => change(row, 'supplierLot', e.currentTarget.value)}
							/></td
						>
					{/if}
					<td class="check"><Findings findings={row.findings} good="new" onuse={(number) => useLot(row, number)} /></td>
					<td class="num"
						><button class="link" onclick={() => sheet.remove([row.id])}
							>Take out<span class="visually-hidden"> {row.serial || row.lot}</span></button
						></td
					>
				</tr>
			{/each}
		</tbody>
	</table>
	{#if line.rows.length > most}<p class="more">
			{most.toLocaleString('en')} of {line.rows.length.toLocaleString('en')} rows shown, those to mend first, then the latest.
			<button class="link" onclick={() => (most += 500)}>Show more</button>
		</p>{/if}
{/if}

<style>
	.more {
		margin: 0.4rem 0.75rem;
		font-size: 0.8125rem;
	}
	tr.bad {
		background: var(--red-soft);
	}
	table.rows {
		contain: layout style paint;
	}
	td .plain {
		height: 26px;
		border-color: transparent;
		background: transparent;
	}
	td .plain:hover,
	td .plain:focus {
		border-color: var(--tag-rule);
		background: var(--paper);
	}
	.check {
		font-size: 0.8125rem;
	}
	.small {
		font-size: 0.75rem;
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
		.rows tr {
			border-bottom: 1px solid var(--rule);
			padding: 0.4rem 0;
		}
	}
</style>
