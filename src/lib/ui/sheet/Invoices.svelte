<script lang="ts">
	// What has moved against what is on invoices; the numbers of invoices and payments as they were noted.
	import {
		Accordion,
		AccordionItem,
		Button,
		Table,
		TableBody,
		TableCell,
		TableHead,
		TableHeader,
		TableRow
	} from 'carbon-components-svelte';
	import { showDay } from '$lib/ui/dates';
	import { documentKind } from '$lib/core/document/kinds';
	import { movedOf } from '$lib/core/sheet/progress';
	import { amount, less, rest } from '$lib/core/quantity/quantity';
	import NoteDown from './NoteDown.svelte';
	import type { Sheet } from './sheet.svelte';
	let { sheet, may }: { sheet: Sheet; may: boolean } = $props();
	const s = $derived(sheet.state);
	const did = $derived(documentKind(s.kind).invoiced ?? 'shipped');
	let noting = $state(false);
	const lines = $derived(
		s.lines.flatMap((l) => {
			if (l.role !== 'goods') return [];
			const moved = movedOf(l);
			const ahead = less(moved, l.invoiced);
			return [{ l, moved, ahead, open: ahead ? rest(l.invoiced, moved) : rest(moved, l.invoiced) }];
		})
	);
	const counted = (n: number, what: string) => (n ? [`${n} ${n === 1 ? 'line' : 'lines'} ${what}`] : []);
	const open = $derived([
		...counted(lines.filter((x) => x.open !== '0' && !x.ahead).length, 'not invoiced'),
		...counted(lines.filter((x) => x.ahead).length, `invoiced and not ${did}`)
	]);
	const invoices = $derived(s.noted.filter((n) => n.what === 'invoice' && !n.withdrawn).length);
	const title = $derived(
		open.length ? open.join(', ') : `Invoiced: ${invoices ? `all that was ${did}` : `nothing ${did} yet`}`
	);
</script>

<div class="invoices">
	<Accordion size="sm" align="start">
		<AccordionItem {title}>
			<Table size="short">
				<TableHead
					><TableRow
						><TableHeader>Line</TableHeader><TableHeader class="num">Ordered</TableHeader><TableHeader class="num"
							>{did === 'shipped' ? 'Shipped' : 'Received'}</TableHeader
						><TableHeader class="num">Invoiced</TableHeader><TableHeader>Open</TableHeader></TableRow
					></TableHead
				>
				<TableBody>
					{#each lines as { l, moved, ahead, open: left } (l.id)}<TableRow
							><TableCell data-label="Line">{l.no} {l.itemName}</TableCell><TableCell class="num" data-label="Ordered"
								>{amount(l.qty, l.unit)}</TableCell
							><TableCell class="num" data-label={did}>{amount(moved, l.unit)}</TableCell><TableCell
								class="num"
								data-label="Invoiced">{amount(l.invoiced, l.unit)}</TableCell
							><TableCell data-label="Open"
								>{left === '0'
									? '–'
									: ahead
										? `${amount(left, l.unit)} invoiced and not ${did}`
										: `${amount(left, l.unit)} not invoiced`}</TableCell
							></TableRow
						>{/each}
				</TableBody>
			</Table>
			{#each s.noted as n (n.id)}
				<p class:undone={n.withdrawn}>
					{n.what} <b>{n.number}</b>, {showDay(n.dated)}{n.lines.length
						? `: ${n.lines.map((x) => `${x.qty} of line ${x.no}`).join(', ')}`
						: ''} <span class="soft">noted by {n.by}{n.withdrawn ? `, withdrawn by ${n.withdrawn}` : ''}</span>
					{#if may && !n.withdrawn}<Button
							kind="ghost"
							size="small"
							class="link"
							on:click={() => sheet.note({ withdraw: n.id })}
							>Withdraw<span class="visually-hidden"> {n.what} {n.number}</span></Button
						>{/if}
				</p>
			{/each}
			{#if may}<Button kind="ghost" size="small" class="link" on:click={() => (noting = true)}>Note an invoice…</Button
				>{/if}
		</AccordionItem>
	</Accordion>
</div>
{#if noting}<NoteDown {sheet} what="invoice" onleave={() => (noting = false)} />{/if}

<style>
	.invoices {
		margin-top: 0.75rem;
	}
	p {
		margin: 0.4rem 0.75rem;
	}
	.undone {
		text-decoration: line-through;
	}
</style>
