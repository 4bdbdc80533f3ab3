<script lang="ts">
	// Everything below the head of a document: what was just said, its lines, the scans, what it weighs, what was booked, the foot bar.
	import type { Snippet } from 'svelte';
	import { documentKind, isPicked } from '$lib/core/document/kinds';
	import { PICK_WORDS, type PickState, type SheetLine } from '$lib/core/sheet/sheet';
	import ScanLog from '../scan/ScanLog.svelte';
	import Faults from '../shell/Faults.svelte';
	import Booked from './Booked.svelte';
	import CloseShort from './CloseShort.svelte';
	import FootBar from './FootBar.svelte';
	import LineHead from './LineHead.svelte';
	import Invoices from './Invoices.svelte';
	import LineSold from './LineSold.svelte';
	import Notice from './Notice.svelte';
	import Sale from './Sale.svelte';
	import type { Sheet } from './sheet.svelte';
	import ScanIn from './ScanIn.svelte';
	import Todos from './Todos.svelte';
	import Weights from './Weights.svelte';
	interface Props {
		sheet: Sheet;
		/** what this person may do with it, and the ways of delivery that it may be sent by */
		data: {
			may: boolean;
			mayClose: boolean;
			mayUndo: boolean;
			ways: { code: string; name: string }[];
		};
		/** of the button: "Book in" */
		verb: string;
		/** what was done with what stands at the head of a line: "picked" */
		word: (line: SheetLine) => string;
		/** what the states of what is fetched are called */
		states?: Readonly<Record<PickState, string>>;
		/** what stands below the head of a line */
		body: Snippet<[SheetLine]>;
		/** a line that is complete shows its head only */
		foldsComplete?: boolean;
		/** of many lines only the first open one stands open */
		foldsMany?: boolean;
		/** the scans stand beside the lines */
		beside?: boolean;
		papers?: string;
		/** what else is asked beside the number to scan */
		asks?: Snippet;
		/** what came has labels to print */
		labels?: boolean;
	}
	let {
		sheet,
		data,
		verb,
		word,
		states = PICK_WORDS,
		body,
		foldsComplete = false,
		foldsMany = false,
		beside = false,
		papers,
		asks,
		labels = false
	}: Props = $props();
	const s = $derived(sheet.state);
	const kind = $derived(documentKind(s.kind));
	const firstOpen = $derived(s.lines.find((l) => l.open !== '0')?.no ?? 1);
	let folded = $state<Record<number, boolean>>({});
	const isOpen = (no: number) => !(folded[no] ?? (foldsMany && s.lines.length > 4 && no !== firstOpen));
	const scans = $derived(s.scans.length > 0 && !s.closedAt);
</script>

{#snippet log()}{#if scans}<ScanLog scans={s.scans} onundo={data.may ? sheet.undoScan : undefined} />{/if}{/snippet}
<Notice {sheet} />
<Faults faults={sheet.faults} onclose={() => (sheet.faults = [])} />
{#if kind.lines === 'scanned' && data.may && !s.closedAt}<ScanIn {sheet} more={asks} />{/if}
{#if s.sale}<Sale {sheet} may={data.may} />{/if}
<div class:beside={beside && scans}>
	<div>
		{#each s.lines as line (line.id)}
			<section class="panel">
				<LineHead
					{line}
					word={word(line)}
					states={isPicked(s.kind) ? states : undefined}
					open={isOpen(line.no)}
					ontoggle={() => (folded[line.no] = isOpen(line.no))}
				/>
				{#if isOpen(line.no) && !(foldsComplete && line.open === '0')}{@render body(line)}{/if}
				{#if isOpen(line.no) && line.sold}<LineSold {sheet} {line} may={data.may} />{/if}
			</section>
		{/each}
	</div>
	{#if beside}{@render log()}{/if}
</div>
{#if !beside}{@render log()}{/if}
{#if kind.invoiced && (s.noted.length || s.events.length)}<Invoices {sheet} may={data.may} />{/if}
{#if kind.todo}<Todos {sheet} may={data.may} />{/if}
<CloseShort {sheet} may={data.mayClose} />
<Weights {sheet} ways={data.ways} readonly={!data.may || !!s.closedAt} />
<Booked {sheet} may={data.may} mayUndo={data.mayUndo} {papers} {labels} />
{#if !s.closedAt}<FootBar {sheet} {verb} {states} may={data.may} ongo={(no) => (folded[no] = false)} />{/if}

<style>
	section {
		margin-bottom: 0.75rem;
	}
	.beside {
		display: grid;
		grid-template-columns: minmax(0, 1fr) 17rem;
		gap: 0.75rem;
		align-items: start;
	}
	@media (max-width: 900px) {
		.beside {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
