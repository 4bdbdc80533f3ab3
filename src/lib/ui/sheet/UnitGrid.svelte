<script lang="ts">
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
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
		<Table size="short">
			<TableHead
				><TableRow
					><TableHeader>Goes into</TableHeader>{#each parts as l (l.id)}<TableHeader id="line-{l.no}"
							>{l.itemName} <span class="soft">{l.no}</span></TableHeader
						>{/each}</TableRow
				></TableHead
			>
			<TableBody>
				{#each units.slice(0, shown) as unit (unit)}
					<TableRow>
						<TableCell><Tag kind="serial" number={unit} /></TableCell>
						{#each parts as l (l.id)}
							{@const cell = cellOf(l, unit)}
							<TableCell data-label={l.itemName}>
								{#if cell}<div class="in">
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
											{#if !p.id}<span class="soft">suggested</span>{/if}
											{#if p.findings.length}<Findings findings={p.findings} />{/if}
										{/each}
										{#if cell.short !== '0'}<span class="short">{amount(cell.short, l.unit)} missing</span>{/if}
										{#if !readonly}{#each cell.offers as o (o.mark)}<Button
													kind="ghost"
													size="small"
													class="link"
													title="{o.number} is at hand at {o.place}; say that it goes into {unit}"
													on:click={() =>
														sheet.put([{ lineId: l.id, data: { mark: o.mark, place: o.place, qty: '1', unit } }])}
													>Take <span class="mono">{o.number}</span><span class="visually-hidden">
														for {unit}</span
													></Button
												>{/each}{/if}
										{#if !readonly}<Button
												kind="ghost"
												size="small"
												class="link"
												aria-expanded={isOpen(l.id, unit)}
												on:click={() => (editing = isOpen(l.id, unit) ? null : { line: l.id, unit })}
												>{cell.picks.length ? 'Change' : 'Choose'}<span class="visually-hidden">
													{l.itemName} of {unit}</span
												></Button
											>{/if}
									</div>{/if}
							</TableCell>
						{/each}
					</TableRow>
					{#if editing?.unit === unit}
						{@const line = parts.find((l) => l.id === editing!.line)!}
						<TableRow
							><TableCell colspan={parts.length + 1}
								><p>{line.itemName} for <span class="mono">{unit}</span></p>
								<Picks {sheet} {line} cell={cellOf(line, unit)!} /></TableCell
							></TableRow
						>
					{/if}
				{/each}
			</TableBody>
		</Table>
	</div>
	{#if units.length > shown}<Button kind="ghost" size="small" class="link" on:click={() => (shown += 500)}
			>Show more: {units.length - shown} units below</Button
		>{/if}
{/if}

<style>
	.wide {
		position: relative;
		overflow-x: auto;
	}
	.in {
		display: inline-flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.25rem 0.6rem;
	}
	.short {
		color: var(--red);
		font-size: 0.8125rem;
	}
	p {
		margin: 0.5rem 0 0.25rem;
	}
</style>
