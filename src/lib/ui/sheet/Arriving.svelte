<script lang="ts">
	// The sheet of a document of what arrives: numbers typed, pasted or scanned below each line, each to its bin.
	import { onMount, type Snippet } from 'svelte';
	import { documentKind } from '$lib/core/document/kinds';
	import type { SheetLine } from '$lib/core/sheet/sheet';
	import { takeScans } from '../scan/scanner';
	import LineFindings from './LineFindings.svelte';
	import NumberRows from './NumberRows.svelte';
	import { handScan, scanned } from './scanned';
	import type { Sheet } from './sheet.svelte';
	import SheetBody from './SheetBody.svelte';
	interface Props {
		sheet: Sheet;
		data: Parameters<typeof SheetBody>[1]['data'] & { bins: string[] };
		/** of the button: "Book in" */
		verb: string;
		beside?: boolean;
		/** what stands above the numbers of a line */
		above?: Snippet<[SheetLine]>;
	}
	let { sheet, data, verb, beside = false, above }: Props = $props();
	const rows: Record<string, ReturnType<typeof NumberRows>> = $state({});
	const s = $derived(sheet.state);
	/** what lies there is numbered where it lies: nothing comes, and from nobody */
	const gives = $derived(documentKind(s.kind).gives);
	const shut = $derived(!data.may || !!s.closedAt);
	const firstOpen = $derived(s.lines.find((l) => l.open !== '0')?.no ?? 1);
	onMount(() => takeScans((text, into) => !shut && scanned(sheet, text, into, (line) => rows[line])));
</script>

<SheetBody {sheet} {data} {verb} word={() => 'entered'} foldsMany {beside} labels>
	{#snippet body(line)}
		{@render above?.(line)}
		<NumberRows
			bind:this={rows[line.id]}
			onscan={(text, at) => handScan(sheet, text, at, null, (l) => rows[l])}
			{sheet}
			{line}
			first={line.no === firstOpen}
			output={gives}
			bins={gives ? undefined : `bins-${line.no}`}
			readonly={shut || (line.open === '0' && !line.rows.length)}
		/>
		<datalist id="bins-{line.no}"
			>{#each [...line.bins, ...data.bins.filter((b) => !line.bins.includes(b))] as b (b)}<option value={b}
					>{line.bins.includes(b) ? 'holds it already' : ''}</option
				>{/each}</datalist
		>
		<LineFindings {line} except={['missing', 'note']} />
	{/snippet}
</SheetBody>
