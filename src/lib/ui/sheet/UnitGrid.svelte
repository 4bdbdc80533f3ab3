<script lang="ts">
	// One row a finished serial, one column a component: what goes into which.
	import type { Cell, SheetLine } from '$lib/core/sheet/sheet';
	import { amount, show } from '$lib/core/quantity/quantity';
	import Tag from '../tag/Tag.svelte';
	import Findings from './Findings.svelte';
	import Picks from './Picks.svelte';
	import type { Sheet } from './sheet.svelte';

	let { sheet, parts, readonly = false }: { sheet: Sheet; parts: SheetLine[]; readonly?: boolean } = $props();
	let editing = $state<{ line: string; unit: string } | null>(null);
	let shown = $state(100);
	const units = $derived(parts[0]?.cells.map((c) => c.unit!) ?? []);
	const cells = $derived(new Map(parts.map((l) => [l.id, new Map(l.cells.map((c) => [c.unit!, c]))])));
	const cellOf = (line: SheetLine, unit: string): Cell | undefined => cells.get(line.id)?.get(unit);
	const isOpen = (line: string, unit: string) => editing?.line === line && editing.unit === unit;
</script>

{#if units.length}
	<div class="wide">
		<table class="rows">
			<thead
				><tr
					><th>Goes into</th>{#each parts as l (l.id)}<th id="line-{l.no}"
							>{l.itemName} <span class="soft">{l.no}</span></th
						>{/each}</tr
				></thead
			>
			<tbody>
				{#each units.slice(0, shown) as unit (unit)}
					<tr>
						<td><Tag kind="serial" number={unit} /></td>
						{#each parts as l (l.id)}
							{@const cell = cellOf(l, unit)}
							<td>
								{#if cell}
									{#each cell.picks as p (p.mark + p.place)}
										<Tag
											kind={p.kind}
											number={p.number}
											qty={p.kind === 'serial' ? null : show(p.qty)}
											id={p.mark}
											item={l.itemName}
											place={p.place}
											expiresOn={p.expiresOn}
										/>
										{#if p.findings.length}<Findings findings={p.findings} />{/if}
									{/each}
									{#if cell.short !== '0'}<span class="short">{amount(cell.short, l.unit)} missing</span>{/if}
									{#if !readonly}{#each cell.offers as o (o.mark)}<button
												class="link"
												title="{o.number} is at hand at {o.place}; say that it goes into {unit}"
												onclick={() =>
													sheet.put([{ lineId: l.id, data: { mark: o.mark, place: o.place, qty: '1', unit } }])}
												>Take <span class="mono">{o.number}</span><span class="visually-hidden">
													for {unit}</span
												></button
											>{/each}{/if}
									{#if !readonly}<button
											class="link"
											aria-expanded={isOpen(l.id, unit)}
											onclick={() => (editing = isOpen(l.id, unit) ? null : { line: l.id, unit })}
											>{cell.picks.length ? 'Change' : 'Choose'}<span class="visually-hidden">
												{l.itemName} of {unit}</span
											></button
										>{/if}
								{/if}
							</td>
						{/each}
					</tr>
					{#if editing?.unit === unit}
						{@const line = parts.find((l) => l.id === editing!.line)!}
						<tr
							><td colspan={parts.length + 1}
								><p>{line.itemName} for <span class="mono">{unit}</span></p>
								<Picks {sheet} {line} cell={cellOf(line, unit)!} /></td
							></tr
						>
					{/if}
				{/each}
			</tbody>
		</table>
	</div>
	{#if units.length > shown}<button class="link" onclick={() => (shown += 500)}
			>Show more: {units.length - shown} units below</button
		>{/if}
{/if}

<style>
	.wide {
		overflow-x: auto;
	}
	td {
		white-space: nowrap;
	}
	td .link {
		font-size: 0.8125rem;
		margin-left: 0.25rem;
	}
	.short {
		color: var(--red);
		font-size: 0.8125rem;
	}
	p {
		margin: 0.5rem 0 0.25rem;
	}
</style>
