<script lang="ts">
	// What a document weighs, line by line and in all, how it is sent and what that asks.
	import {
		Accordion,
		AccordionItem,
		Table,
		TableBody,
		TableCell,
		TableHead,
		TableHeader,
		TableRow
	} from 'carbon-components-svelte';
	import { show, type Qty } from '$lib/core/quantity/quantity';
	import { grouped } from '$lib/core/quantity/sign';
	import Choose from '../fields/Choose.svelte';
	import type { Sheet } from './sheet.svelte';
	interface Props {
		sheet: Sheet;
		/** ways of delivery to choose from, where this kind is sent */
		ways?: { code: string; name: string }[];
		readonly?: boolean;
	}
	let { sheet, ways = [], readonly = false }: Props = $props();
	const w = $derived(sheet.state.weighed);
	const kg = (q: Qty | null) => (q === null ? '–' : show(q, 3));
	const name = (no: number) => sheet.state.lines.find((l) => l.no === no)?.itemName ?? '';
	const known = $derived(w.total.chargeable !== null);
	const title = $derived(
		known
			? `Weight: ${kg(w.total.chargeable)} kg chargeable${w.way ? `, by ${w.way.name}` : ''}${w.carriage ? `, carriage ${show(w.carriage.amount, 2)} ${w.carriage.currency}` : ''}`
			: 'Weight: not known'
	);
	const offered = $derived(w.way && !ways.some((x) => x.code === w.way!.code) ? [...ways, w.way] : ways);
</script>

{#if known || ways.length}
	<div class="weights">
		<Accordion size="sm" align="start">
			<AccordionItem {title}>
				{#if offered.length}
					<Choose
						label="Sent by"
						options={[['', 'not said'], ...offered.map((x) => [x.code, x.name] as const)]}
						value={w.way?.code ?? ''}
						disabled={readonly}
						onpick={(way: string) => sheet.sendBy(way)}
					/>
				{/if}
				<Table size="short">
					<TableHead
						><TableRow
							><TableHeader>Line</TableHeader><TableHeader class="num">Pieces</TableHeader><TableHeader class="num"
								>Net, kg</TableHeader
							><TableHeader class="num">Gross, kg</TableHeader><TableHeader class="num">Volumetric, kg</TableHeader
							><TableHeader class="num">Chargeable, kg</TableHeader></TableRow
						></TableHead
					>
					<TableBody>
						{#each w.lines as l (l.no)}
							<TableRow
								><TableCell>{l.no} · {name(l.no)}</TableCell><TableCell class="num">{show(l.pieces)}</TableCell
								><TableCell class="num">{kg(l.net)}</TableCell><TableCell class="num">{kg(l.gross)}</TableCell
								><TableCell class="num">{kg(l.volumetric)}</TableCell><TableCell class="num"
									>{kg(l.chargeable)}</TableCell
								></TableRow
							>
						{/each}
						<TableRow class="sum"
							><TableCell>Together</TableCell><TableCell class="num">{show(w.total.pieces)}</TableCell><TableCell
								class="num">{kg(w.total.net)}</TableCell
							><TableCell class="num">{kg(w.total.gross)}</TableCell><TableCell class="num"
								>{kg(w.total.volumetric)}</TableCell
							><TableCell class="num">{kg(w.total.chargeable)}</TableCell></TableRow
						>
					</TableBody>
				</Table>
				<p class="soft">
					{grouped(w.divisor)} cm³ count as a kilogram{w.carriage?.minimum
						? '; carriage is the least that is asked'
						: ''}.
					{#if w.unknown.length}Not in it: {w.unknown.map((n) => `line ${n}, ${name(n)}`).join('; ')}: nobody weighed or
						measured it. Setup, Items.{/if}
				</p>
			</AccordionItem>
		</Accordion>
	</div>
{/if}

<style>
	.weights {
		background: var(--paper);
		border: 1px solid var(--rule);
		margin-bottom: 0.75rem;
	}
	.weights :global(.bx--accordion__item) {
		border: 0;
	}
	.weights :global(.bx--accordion__content) {
		padding: 0.5rem 0.75rem 0.75rem;
		margin: 0;
	}
	.weights :global(tr.sum td) {
		font-weight: 600;
	}
	p {
		margin: 0.5rem 0 0;
	}
</style>
