<script lang="ts">
	// A page of one part of a trace: where it is now, by generation, by customer, suppliers, gaps. Serials that follow each other
	// stand as ranges, generations fold; what is unfolded is asked of the server.
	import ChevronDown from 'carbon-icons-svelte/lib/ChevronDown.svelte';
	import ChevronRight from 'carbon-icons-svelte/lib/ChevronRight.svelte';
	import { Button, Table, TableBody, TableCell, TableHead, TableHeader, TableRow } from 'carbon-components-svelte';
	import { showWhen } from '$lib/ui/dates';
	import { KNOWN_BY } from '$lib/core/ledger/evidence';
	import { show } from '$lib/core/quantity/quantity';
	import { unitWord } from '$lib/core/quantity/units';
	import type { Line, Part, TraceHead } from '$lib/core/trace/shown';
	import Tag from '../tag/Tag.svelte';

	interface Props {
		part: Part;
		head: TraceHead;
		lines: readonly Line[];
		onfold: (line: Line) => void;
	}
	let { part, head, lines, onfold }: Props = $props();
	const forward = $derived(head.direction === 'forward');
	const tree = $derived(part === 'numbers');
	const whole = $derived(part === 'where' || part === 'customers');

	type Key =
		'number' | 'item' | 'state' | 'at' | 'qty' | 'content' | 'run' | 'document' | 'date' | 'proven' | 'known' | 'what';
	const COLUMNS: Record<Part, readonly Key[]> = {
		where: ['number', 'item', 'state', 'at', 'document', 'date', 'known', 'qty', 'content'],
		customers: ['number', 'item', 'state', 'at', 'document', 'date', 'known', 'qty', 'content'],
		numbers: ['number', 'item', 'qty', 'content', 'run', 'document', 'date', 'proven', 'known'],
		suppliers: ['at', 'number', 'item', 'document', 'known', 'date', 'qty'],
		gaps: ['what', 'number', 'item', 'qty', 'run', 'document'],
		formerly: ['number', 'item']
	};
	const columns = $derived(COLUMNS[part].filter((c) => c !== 'content' || forward));
	const labels = $derived<Record<Key, string>>({
		number: part === 'gaps' ? 'Of' : 'Number',
		item: 'Item',
		state: 'State',
		at: part === 'suppliers' ? 'Supplier' : 'Where',
		qty: 'Quantity',
		content: `${head.shares ? 'Share of' : 'From'} ${head.root.number}`,
		run: 'Run',
		document: 'Document',
		date: part === 'suppliers' ? 'Received' : !tree ? 'Date' : forward ? 'Reached' : 'Went in',
		proven: 'Proven',
		known: 'Known by',
		what: 'What'
	});
	const NUM: readonly Key[] = ['qty', 'content'];
	const MONO: readonly Key[] = ['run', 'document'];
	const EMPTY: Record<Part, string> = {
		where: 'None left.',
		customers: 'No customer has any of it.',
		numbers: 'Nothing is reached.',
		suppliers: 'Nothing in it was received from a supplier.',
		gaps: 'No gap: every step is proven, and nothing was booked without a look at it.',
		formerly: 'Nothing was taken out of it.'
	};
	const PROVEN = { start: '', above: 'laid out above', exact: 'piece by piece', pooled: 'by batch' } as const;
	/** What is here needs no word of how it is known: it can be looked at. */
	const here = (l: Line) => ['on hand', 'in process', 'unmarked'].includes(l.state ?? '');
	const unit = (l: Line) => unitWord(l.numbers?.first.unit ?? '');
	function text(l: Line, c: Key): string {
		switch (c) {
			case 'item':
				return l.level && whole
					? l.numbers?.first.lot
						? `lot ${l.numbers.first.lot}`
						: ''
					: (l.numbers?.first.itemName ?? '');
			case 'qty':
				return l.qty === null ? '' : `${show(l.qty)} ${unit(l)}`;
			case 'content':
				return l.content === null ? '' : `${show(l.content)} ${unitWord(head.unit)}`;
			case 'date':
				return `${l.date ? showWhen(l.date) : ''}${l.noLonger ? ' no longer' : ''}`;
			case 'proven':
				return `${PROVEN[l.proven ?? 'start']}${l.taken ? ', taken out' : ''}`;
			case 'known':
				return l.known === undefined || here(l) ? '' : KNOWN_BY[l.known ?? 'unknown'];
			default:
				return (c === 'number' ? null : l[c]) ?? '';
		}
	}
	const say = (l: Line) => `${l.open ? 'Fold' : 'Unfold'} ${l.numbers?.first.number ?? ''}`;
</script>

<Table size="short">
	<TableHead
		><TableRow
			>{#each columns as c (c)}<TableHeader class={NUM.includes(c) ? 'num' : ''}>{labels[c]}</TableHeader
				>{/each}</TableRow
		></TableHead
	>
	<TableBody>
		{#each lines as l (l.key)}
			{#if l.heading !== null}
				<TableRow><TableCell colspan={columns.length}><b>{l.heading}</b></TableCell></TableRow>
			{:else}
				<TableRow class={l.level && whole ? 'inner' : ''}>
					{#each columns as c (c)}
						{#if c === 'number'}
							<TableCell style={tree ? `padding-left:${0.75 + l.level * 1.4}rem` : undefined}>
								{#if tree && l.folds}<Button
										kind="ghost"
										size="small"
										class="link fold"
										aria-expanded={l.open}
										aria-label={say(l)}
										on:click={() => onfold(l)}
										>{#if l.open}<ChevronDown size={16} />{:else}<ChevronRight size={16} />{/if}</Button
									>{:else if tree}<span class="fold"></span>{/if}
								{#if l.numbers}{@const { first, last, count } = l.numbers}<Tag
										kind={first.kind}
										number={first.number}
										last={last.number}
										{count}
										id={count > 1 ? null : first.id}
										status={first.status}
										expiresOn={tree && count === 1 ? first.expiresOn : null}
									/>{:else if l.run && part !== 'gaps'}<span class="mono">run {l.run}</span>{/if}
								{#if !tree && l.folds}<Button
										kind="ghost"
										size="small"
										class="link"
										aria-expanded={l.open}
										on:click={() => onfold(l)}
										>{l.open ? 'Fold' : 'Open'}<span class="visually-hidden"> {l.numbers?.first.number}</span></Button
									>{/if}
							</TableCell>
						{:else}
							{@const said = text(l, c)}
							<TableCell
								class="{NUM.includes(c) ? 'num' : ''} {MONO.includes(c) ? 'mono' : ''} {c === 'known' &&
								l.known === 'scanned'
									? 'soft'
									: ''}"
								data-label={labels[c]}
								data-none={!said || undefined}>{said || (whole && !l.level ? '–' : '')}</TableCell
							>
						{/if}
					{/each}
				</TableRow>
			{/if}
		{:else}<TableRow><TableCell colspan={columns.length} class="soft">{EMPTY[part]}</TableCell></TableRow>{/each}
	</TableBody>
</Table>

<style>
	.fold {
		display: inline-flex;
		width: 20px;
		vertical-align: middle;
	}
</style>
